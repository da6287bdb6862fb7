import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { keyText } from '../../core/deliverable/outlet'
import type { SplitTimeline } from '../../core/split/timeline'
import { shotsOf } from '../../core/timeline/model'
import { makeRate } from '../../core/time/rate'
import { deliver, deliverables, drain, outlet, recipe, scratchFolder, testEngine } from '../../tests/fixtures'
import { tones } from '../../tests/tones'
import type { Session } from '../session'
import { openMediaFile } from '../storage/mediafile'

// A list of sound alone: counted in frames, as it is, and without pictures that nobody has.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session
let t: SplitTimeline

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  tones(path.join(storage, 'SEA.wav'), [1000, 500, 750])
  tones(path.join(storage, 'VOICE.wav'), [250, 250])
  const clips = [
    ['SEA', 'AA', '00:00:00:00 00:00:02:00 10:00:00:00 10:00:02:00'],
    ['VOICE', 'AA', '00:00:01:00 00:00:03:00 10:00:02:00 10:00:04:00'],
    ['SEA', 'A3', '00:00:00:00 00:00:01:00 10:00:01:10 10:00:02:10'],
  ]
  const lines = clips.map(
    ([reel, track, times], i) => `00${i + 1}  ${reel!.padEnd(8)} ${track!.padEnd(5)} C        ${times}`,
  )
  writeFileSync(path.join(storage, 'bulletin.edl'), ['TITLE: BULLETIN', 'FCM: NON-DROP FRAME', ...lines].join('\n'))
  engine = await testEngine(folder)
  t = await engine.timelines.bringIn({ root: 'storage', path: 'bulletin.edl' }, { rate: makeRate(25) })
  await drain(engine)
})
afterAll(async () => {
  await engine.close()
  remove()
})

it('has no pictures, and is cut where its first track is', async () => {
  expect(t.info).toMatchObject({ video: [], audio: [{ channels: 3, sampleRate: 48_000, samples: 192_000 }] })
  expect(t.model).toMatchObject({ rate: { num: 25, den: 1 }, start: 900_000, length: 100 })
  expect(shotsOf(t.model).map((s) => [s.in, s.out, s.reel])).toEqual([
    [0, 50, 'SEA'],
    [50, 100, 'VOICE'],
  ])
  await expect(engine.viewing.picture(t, 3, 320)).rejects.toMatchObject({ problem: { code: 'media.no-pictures' } })
})

it('is heard once, by frames: what is in it, and how loud each frame is', async () => {
  const { sound, pictures, progress } = await engine.viewing.analysis(t)
  expect([pictures, progress, sound!.momentary.length]).toEqual([null, 1, 40])
  const levels = await engine.viewing.levels(t, 0, 100)
  expect([levels.rate, levels.first, levels.peaks.length]).toEqual([{ num: 25, den: 1 }, 0, 100])
  const silent = levels.peaks.map((of) => of[2]! < 0.2)
  // what ends with a frame rings on for a few samples
  expect([silent.indexOf(false), silent.slice(61).includes(false)]).toEqual([35, false])
})

it('is delivered as sound, from the sample at which its frame begins, with its timecode', async () => {
  const by = recipe('sound', { channels: [1, 2] })
  const item = await deliver(engine, { name: 'wave', file: 'bulletin.edl', range: { in: 45, out: 55 }, by })
  expect(item.problem).toBeNull()
  const opened = await openMediaFile(path.join(storage, item.path), item.path)
  const sound = opened.sound(null)!
  const heard = await sound.read(0, sound.samples)
  expect(opened.info).toMatchObject({ video: [], bext: { timeReference: (900_000 + 45) * 1920 } })
  await opened.close()
  const tone = (hertz: number, n: number) => 0.5 * Math.sin((2 * Math.PI * hertz * n) / 48_000)
  const wanted = (c: number, n: number) => (n < 9600 ? tone([1000, 500][c]!, n) : tone(250, n - 9600))
  expect(heard.map((c) => c.length)).toEqual([19_200, 19_200])
  for (const [c, channel] of heard.entries())
    expect(channel.reduce((most, v, n) => Math.max(most, Math.abs(v - wanted(c, n))), 0)).toBeLessThan(1e-5)
})

it('is made into no pictures', async () => {
  await engine.outlets.save(outlet('copy', 'storage', recipe('viewing')))
  const key = { timelineId: t.id, regionId: 'r', outletId: 'copy' }
  await engine.outlets.choose([key], true)
  await drain(engine)
  const d = (await deliverables(engine)).find((x) => keyText(x) === keyText(key))!
  expect([d.cleared, d.output.problems.map((p) => p.code)]).toEqual([false, ['recipe.no-pictures']])
})
