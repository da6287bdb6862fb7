import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, afterEach, expect, it, vi } from 'vitest'
import { scratchFolder } from '../../tests/fixtures'
import type { Queue } from '../queue/port'
import { WorkerPool } from './pool'

const { folder, remove } = scratchFolder()
const worker = path.join(folder, 'dist', 'worker.mjs')
mkdirSync(path.dirname(worker))
const queue = { abandon: () => Promise.resolve() } as unknown as Queue
let pool: WorkerPool

afterEach(async () => {
  await pool.stop()
  vi.unstubAllEnvs()
})
afterAll(remove)

it('starts workers that cannot start ever more seldom, says why, and takes it back when they can', async () => {
  vi.stubEnv('VELVET_HOME', folder)
  writeFileSync(worker, `process.send({ broke: 'the disk of facts is not there' }, () => process.exit(1))\n`)
  let told = 0
  pool = new WorkerPool(queue, folder, [], () => told++)
  pool.start(1)
  await expect
    .poll(() => pool.trouble)
    .toMatchObject({
      code: 'worker.cannot-start',
      message: 'Workers cannot be started: the disk of facts is not there.',
    })
  expect(told).toBe(1)
  writeFileSync(worker, `process.send({ ready: true })\nsetInterval(() => undefined, 1000)\n`)
  await expect.poll(() => pool.trouble).toBeNull()
})

it('says how a process ended that could not even begin', async () => {
  vi.stubEnv('VELVET_HOME', folder)
  writeFileSync(worker, 'this is no program')
  pool = new WorkerPool(queue, folder, [])
  pool.start(1)
  await expect.poll(() => pool.trouble?.message).toBe('Workers cannot be started: exit code 1.')
})
