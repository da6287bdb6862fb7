import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { encodePcm } from '../../core/codec/pcm/pcm'
import { encodeV210 } from '../../core/codec/v210/v210'
import { blackPicture, type Picture } from '../../core/picture/picture'
import { followPictures } from '../../core/split/followpictures'
import type { SplitTimeline } from '../../core/split/timeline'
import { drain, scratchFolder, testEngine } from '../../tests/fixtures'
import { plainMov } from '../../tests/plainmov'
import type { Session } from '../session'
import { fileSink } from '../storage/disk'

// Two flattened files of one programme, without a list: regions follow their pictures.

const { folder, remove } = scratchFolder()
const [width, height] = [96, 54]
/** A scene, the first of its frames that is shown, and how many are. */
type Shot = readonly [scene: number, first: number, frames: number]

/** Stripes of a scene's own width, over which something moves; scene 0 is black. */
function draw(scene: number, k: number): Picture {
  const p = blackPicture(width, height, '4:2:2', 10)
  if (scene === 0) return p
  const [x0, y0] = [(k * 2 + scene * 31) % width, (k + scene * 17) % height]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const thing = (x - x0) ** 2 + (y - y0) ** 2 < 90
      const ground = 40 + ((Math.floor(x / (5 + scene)) * 37 + Math.floor(y / (4 + scene * 2)) * 53 + scene * 71) % 150)
      p.planes[0][y * width + x] = (thing ? 220 : ground) << 2
    }
  return p
}

async function make(name: string, shots: readonly Shot[]): Promise<void> {
  const frames = shots.flatMap(([scene, first, count]) => Array.from({ length: count }, (_, i) => [scene, first + i]))
  const { head, picture, step } = plainMov(width, height, frames.length, 90_000)
  const sink = await fileSink(path.join(folder, 'storage', name))
  await sink.write(0, head)
  for (const [n, [scene, k]] of frames.entries()) {
    await sink.write(head.length + n * step, encodeV210(draw(scene!, k!)))
    const silence = new Float32Array(1920)
    await sink.write(head.length + n * step + picture, encodePcm([silence, silence], 24, false))
  }
  await sink.finish()
}

let engine: Session
const timelines: SplitTimeline[] = []
beforeAll(async () => {
  mkdirSync(path.join(folder, 'storage'), { recursive: true })
  await make('bell_v1.mov', [
    [1, 0, 60],
    [2, 0, 60],
    [0, 0, 30],
    [3, 0, 80],
    [4, 0, 60],
  ])
  // a new shot in front, the second trimmed at its head, the third cut in two by another
  await make('bell_v2.mov', [
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
