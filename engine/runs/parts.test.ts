import { mkdirSync, readdirSync, readFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { Deliverable } from '../../contract/deliverables'
import { openPictures } from '../../core/codec/pictures'
import { openSound } from '../../core/codec/sound'
import { openMedia } from '../../core/container/registry'
import { keyText } from '../../core/deliverable/outlet'
import { pictureDifference, type Picture } from '../../core/picture/picture'
import { fitPicture } from '../../core/picture/scale'
import { parseSpec } from '../../core/spec/spec'
import { makeRate, type Frames } from '../../core/time/rate'
import { sampleAtFrame } from '../../core/time/samples'
import {
  deliverables,
  drain,
  latestRun,
  outlet,
  recipe,
  scratchFolder,
  shot,
  smallReel,
  testEngine,
} from '../../tests/fixtures'
import type { Session } from '../session'
import { openFile } from '../storage/disk'
import { machineCodecs } from '../worker/codecs'

// A programme in two parts: written one after the other with black between, what lies between them in the timeline
// (black and far too loud) neither delivered nor judged, and what lies in them found where it is in the file.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const rate = makeRate(25)
const at = (n: Frames) => sampleAtFrame(n, rate, 48000)
const parts = [
  { in: 5, out: 45 },
  { in: 70, out: 115 },
] as const
/** Frames of the file: 40 of the first part, 25 of black, 45 of the second. */
const second = 65
let engine: Session
let before: Deliverable
let file = ''

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  const loud = (i: number) => (i >= at(46) && i < at(69) ? 0.9 : 0.2)
  const sound = (phase: number) =>
    Float32Array.from(
      { length: at(120) },
      (_, i) => loud(i) * Math.sin(phase + 2 * Math.PI * (i / 48000) * (300 + i / 400)),
    )
  await smallReel(path.join(storage, 'reel.mov'), {
    ...{ width: 320, height: 180, bitrate: 3_000_000, channels: [sound(0), sound(0.4)] },
    shots: [shot('chainWide', 45), shot('black', 25), shot('bell', 15), shot('black', 15), shot('gannets', 20)].map(
      (s) => ({ ...s, clean: s.scene === 'black' }),
    ),
  })
  engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const region = (id: string, range: { in: Frames; out: Frames }) => ({ id, name: id, ...range, metadata: {} })
  const regions = [
    { ...region('whole', { in: 0, out: 120 }), kind: 'programme' as const },
    ...parts.map((p, i) => ({ ...region(`p${i}`, p), kind: 'part' as const })),
  ]
  const markers = [30, 60, 80].map((n) => ({ id: `m${n}`, at: n, name: `at ${n}` }))
  await engine.timelines.saveSplit(t.id, { regions, markers }, t.splitVersion)
  const rules = ['loudness', 'true-peak', 'black', 'programme-start', 'programme-duration'].map((measure) => ({
    ...{ id: measure, measure, severity: 'should' as const, expect: { equals: 'x' }, clause: '1' },
  }))
  const about = { format: 'velvet-crane-spec/1', id: 'all', name: 'All', recipient: 'All', issued: '2026-03-01' }
  await engine.outlets.saveSpec(parseSpec({ ...about, rules }))
  const by = recipe('broadcast', { breaks: 1, start: '10:00:00:00' })
  await engine.outlets.save(outlet('house', 'storage', by, { spec: 'all' }))
  const key = { timelineId: t.id, regionId: 'whole', outletId: 'house' }
  await engine.outlets.choose([key], true)
  await drain(engine)
  before = (await deliverables(engine))[0]!
  await engine.nights.start('night', 2, [keyText(key)])
  await drain(engine)
  const [item] = (await latestRun(engine)).items
  expect([item!.state, item!.problem]).toEqual(['done', null])
  file = path.join(storage, item!.path)
})
afterAll(async () => {
  await engine.close()
  remove()
})

const read = (d: Deliverable) => Object.fromEntries(d.results.map((r) => [r.rule.measure, r.source ?? r.forecast]))

it('is judged by its parts alone, whose faults are told where they lie in the timeline', () => {
  const own = read(before)
  expect(own['programme-duration']!.value).toBeCloseTo(85 / 25, 9)
  expect(own['true-peak']!.value).toBeLessThan(-13)
  // the reel begins at 10:00:59:00
  expect(own.black).toMatchObject({ value: 1, text: expect.stringMatching(/ at 10:01:02:10$/) as string })
  expect(before.output.notes!.join()).toMatch(/2 parts with 1 s of black .* 00:00:01:10 of the region is of no part/)
})

it('is measured as written alike, and its faults are told where they lie in the file', async () => {
  const { proof } = (await engine.handover.one((await latestRun(engine)).items[0]!.id))!
  const written = Object.fromEntries(proof.results.map((r) => [r.rule.measure, r.written]))
  const own = read(before)
  expect(written.black).toMatchObject({ value: 1, text: expect.stringMatching(/ at 10:00:03:05$/) as string })
  for (const m of ['loudness', 'programme-duration'])
    expect([m, written[m]!.value]).toEqual([m, expect.closeTo(own[m]!.value as number, 2)])
  // a wave that is cut off rings over into the break, which only the file has
  expect(Math.abs((written['true-peak']!.value as number) - (own['true-peak']!.value as number))).toBeLessThan(0.5)
  expect(written['programme-start']!.value).toBe('10:00:00:00')
  expect([proof.ends!.first, proof.ends!.last].every((d) => d < 3)).toBe(true)
})

it('has the pictures of its parts in place, and black between them', async () => {
  const reel = await openFile(path.join(storage, 'reel.mov'))
  const source = await openFile(file)
  const [there, made] = [await openMedia(reel), await openMedia(source)]
  expect(made.info).toMatchObject({ durationFrames: 110, timecode: { start: '10:00:00:00' } })
  const one = async (media: typeof made, n: Frames): Promise<Picture> => {
    for await (const { picture } of openPictures(media, machineCodecs()).read({ in: n, out: n + 1 })) return picture
    throw new Error(`no picture ${n}`)
  }
  const raster = { width: 1920, height: 1080, fit: 'letterbox' as const }
  for (const [n, own] of [
    [0, 5],
    [39, 44],
    [second, 70],
    [109, 114],
  ] as const)
    expect(pictureDifference(fitPicture(await one(there, own), raster), await one(made, n))).toBeLessThan(1)
  for (const n of [40, 64]) expect((await one(made, n)).planes[0].every((v) => Math.abs(v - 64) <= 1)).toBe(true)
  // a chapter between the parts has no place
  expect(made.info.chapters.map((c) => [Math.round((c.at * 25) / c.timescale), c.name])).toEqual([
    [25, 'at 30'],
    [second + 10, 'at 80'],
  ])
  const [sound, own] = [openSound(made, machineCodecs())!, openSound(there, machineCodecs())!]
  const same = async (n: Frames, frame: Frames, frames: Frames) => {
    const [a, b] = [await sound.read(at(n), at(frames)), await own.read(at(frame), at(frames))]
    return a.every((c, k) => c.every((v, i) => v === b[k]![i]))
  }
  expect([await same(0, 5, 40), await same(second, 70, 45)]).toEqual([true, true])
  expect((await sound.read(at(40), at(25))).every((c) => c.every((v) => v === 0))).toBe(true)
  await reel.close()
  await source.close()
})

it('is told part by part in the report', async () => {
  const { items } = await latestRun(engine)
  const report = readdirSync(path.dirname(file)).find((f) => f.startsWith('handover-') && f.endsWith('.json'))!
  const { files } = JSON.parse(readFileSync(path.join(path.dirname(file), report), 'utf8')) as {
    files: { path: string; sections: unknown }[]
  }
  expect(files.find((f) => f.path === items[0]!.path)!.sections).toEqual([
    { what: 'part 1', start: '10:00:00:00', length: '00:00:01:15' },
    { what: 'break', start: '10:00:01:15', length: '00:00:01:00' },
    { what: 'part 2', start: '10:00:02:15', length: '00:00:01:20' },
  ])
})

it('is made anew when one of its parts moves', async () => {
  const [t] = await engine.timelines.list()
  expect((await deliverables(engine))[0]!.output.frames).toBe(110)
  const regions = t!.split.regions.map((r) => (r.id === 'p1' ? { ...r, out: 110 } : r))
  await engine.timelines.saveSplit(t!.id, { ...t!.split, regions }, t!.splitVersion)
  expect((await deliverables(engine))[0]!.output.frames).toBe(105)
})
