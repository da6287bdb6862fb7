import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { reelEdl } from '../../demo/reel'
import { scratchFolder, smallReel, testEngine } from '../../tests/fixtures'

const { folder, remove } = scratchFolder()
afterAll(remove)

it('brings in what arrives, once it has stopped growing, and says what could not be', async () => {
  const inbox = path.join(folder, 'storage', 'inbox')
  mkdirSync(inbox, { recursive: true })
  writeFileSync(path.join(inbox, 'old.edl'), 'TITLE: OLD\n001 A V C 00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00\n')
  const engine = await testEngine(folder)
  const { watcher, timelines } = engine
  const names = async () => (await timelines.list()).map((t) => [t.name, t.cuts !== null])
  await watcher.watch({ root: 'storage', path: 'inbox' })
  await watcher.poll()
  await watcher.poll()
  expect(await names()).toEqual([])
  const plan = await smallReel(path.join(inbox, 'reel.mov'))
  writeFileSync(path.join(inbox, 'reel.edl'), reelEdl(plan, 'REEL'))
  writeFileSync(path.join(inbox, 'letter.mov'), 'Dear Quayhouse Post')
  await watcher.poll()
  expect(await names()).toEqual([])
  writeFileSync(path.join(inbox, 'letter.mov'), 'Dear Quayhouse Post, once more')
  await watcher.poll()
  expect(await names()).toEqual([['reel', true]])
  await watcher.poll()
  expect((await watcher.state()).problems.map((p) => [p.file, p.problem.code])).toEqual([
    ['letter.mov', 'media.unknown'],
  ])
  await watcher.poll()
  expect(await names()).toHaveLength(1)
  expect((await watcher.watch(null)).folder).toBeNull()
  await engine.close()
})
