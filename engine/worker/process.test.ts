import { spawnSync } from 'node:child_process'
import { existsSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { scratchFolder } from '../../tests/fixtures'
import type { WorkerStart } from './messages'

const { folder, remove } = scratchFolder()
afterAll(remove)

it('a worker whose parent dies while it is still loading goes as well', async () => {
  const start: WorkerStart = {
    mode: 'work',
    id: 'orphan',
    data: path.join(folder, 'data'),
    roots: [],
    index: 0,
    joined: null,
  }
  const parent = `
    import { fork } from 'node:child_process'
    const env = { ...process.env, VELVET_WORKER: ${JSON.stringify(JSON.stringify(start))} }
    const options = { env, serialization: 'advanced', stdio: ['ignore', 'ignore', 'ignore', 'ipc'] }
    const child = fork(${JSON.stringify(path.resolve('dist', 'worker.mjs'))}, [], options)
    process.stdout.write(String(child.pid))
    setTimeout(() => process.kill(process.pid, 'SIGKILL'), Number(process.env.AFTER))`
  const pids = Array.from({ length: 24 }, (_, n) => {
    const env = { ...process.env, AFTER: String(n * 40) }
    const r = spawnSync(process.execPath, ['--input-type=module', '-e', parent], { encoding: 'utf8', env })
    return Number(r.stdout)
  })
  expect(pids.every((pid) => pid > 0)).toBe(true)
  const alive = () => pids.filter((pid) => existsSync(`/proc/${pid}/exe`))
  await expect.poll(alive).toEqual([])
})
