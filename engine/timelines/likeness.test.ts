import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { followPictures } from '../../core/split/followpictures'
import type { SplitTimeline } from '../../core/split/timeline'
import { drain, scratchFolder, testEngine } from '../../tests/fixtures'
import { makeScenes } from '../../tests/scenes'
import type { Session } from '../session'

// Two flattened files of one programme, without a list: regions follow their pictures.

const { folder, remove } = scratchFolder()
let engine: Session
const timelines: SplitTimeline[] = []
beforeAll(async () => {
  mkdirSync(path.join(folder, 'storage'), { recursive: true })
  await makeScenes(path.join(folder, 'storage', 'bell_v1.mov'), [
    [1, 0, 60],
    [2, 0, 60],
    [0, 0, 30],
    [3, 0, 80],
    [4, 0, 60],
  ])
  // a new shot in front, the second trimmed at its head, the third cut in two by another
  await makeScenes(path.join(folder, 'storage', 'bell_v2.mov'), [
    [5, 0, 50],
    [1, 0, 60],
    [2, 12, 48],
    [0, 0, 30],
    [3, 0, 40],
    [6, 0, 30],
    [3, 40, 40],
    [4, 0, 60],
  ])
  engine = await testEngine(folder)
  for (const name of ['bell_v1.mov', 'bell_v2.mov'])
    timelines.push(await engine.timelines.bringIn({ root: 'storage', path: name }))
})
afterAll(async () => {
  await engine.close()
  remove()
})

it('tells where the pictures of an older version are, once both have been looked through', async () => {
  const [older, newer] = timelines as [SplitTimeline, SplitTimeline]
  expect(await engine.timelines.likeness(older, newer)).toMatchObject({ state: 'waiting', same: null })
  await drain(engine)
  expect(await engine.timelines.likeness(older, newer)).toMatchObject({ state: 'working', same: null })
  await drain(engine)
  const { state, same } = await engine.timelines.likeness(older, newer)
  expect(state).toBe('ready')
  const region = (id: string, from: number, to: number) => ({ id, name: id, in: from, out: to, metadata: {} })
  const regions = [region('a', 0, 60), region('b', 60, 120), region('c', 150, 230), region('d', 240, 280)]
  const list = followPictures(older.model, newer.model, { regions, markers: [] }, same!)
  expect(list.map((f) => [f.region.id, f.range?.in, f.range?.out, f.doubts])).toEqual([
    ['a', 50, 110, ['something new stands before it']],
    ['b', 110, 158, []],
    ['c', 188, 298, []],
    ['d', 308, 348, []],
  ])
  // asked again it is there
  expect(await engine.timelines.likeness(older, newer)).toMatchObject({ state: 'ready' })
})
