import { mkdirSync, readdirSync, utimesSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { scratchFolder } from '../../tests/fixtures'
import { clearTryouts, tryoutFile } from './tryouts'

const { folder, remove } = scratchFolder()
afterAll(remove)

it('keeps the newest stretches, and nothing that was left half made', async () => {
  const now = 1_800_000_000_000
  const put = (name: string, hoursAgo: number, bytes?: number) => {
    const file = path.join(folder, name)
    if (bytes === undefined) mkdirSync(file)
    else writeFileSync(file, Buffer.alloc(bytes))
    const at = (now - hoursAgo * 3_600_000) / 1000
    utimesSync(file, at, at)
  }
  put(tryoutFile('old', '.mp4'), 3, 400)
  put(tryoutFile('large', '.mov'), 2, 700)
  put(tryoutFile('new', '.mp4'), 1, 300)
  put('0f3a.traces', 90, 5000)
  put('making-left', 30)
  put('making-now', 0.1)
  await clearTryouts(folder, 1000, now)
  expect(readdirSync(folder).sort()).toEqual(['0f3a.traces', 'making-now', 'tryout-large.mov', 'tryout-new.mp4'])
})
