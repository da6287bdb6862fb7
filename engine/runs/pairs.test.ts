import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { openPictures } from '../../core/codec/pictures'
import { openSound } from '../../core/codec/sound'
import { openMedia } from '../../core/container/registry'
import type { Media } from '../../core/media/media'
import { fieldsOf, woven } from '../../core/picture/fields'
import type { Picture } from '../../core/picture/picture'
import { parseSpec } from '../../core/spec/spec'
import { makeRate, type Frames } from '../../core/time/rate'
import { sampleAtFrame } from '../../core/time/samples'
import { readCounter } from '../../demo/reel'
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
import { keyText } from '../../core/deliverable/outlet'
import { openFile } from '../storage/disk'
import { openMediaFile } from '../storage/mediafile'
import { machineCodecs } from '../worker/codecs'
import { measureFile } from '../worker/measurefile'

// Fields of 25 frames a second out of 50 frames: each frame of the timeline becomes the field it is to be, whichever
// field comes first, in a whole region and in parts, and sound and timecode stay where they were.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
const rate = makeRate(50)
const parts = [
  { in: 8, out: 28 },
  { in: 40, out: 60 },
] as const
let engine: Session
let timeline = ''
let files: string[] = []
const closing: (() => Promise<void>)[] = []

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'), {
    ...{ width: 960, height: 540, rate, bitrate: 6_000_000, start: 10 * 3600 * 50 },
    shots: [shot('chainWide', 40), shot('bell', 40)],
  })
  engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  timeline = t.id
  const region = (id: string, range: { in: Frames; out: Frames }) => ({ id, name: id, ...range, metadata: {} })
  const regions = [
    region('all', { in: 4, out: 64 }),
    ...parts.map((p, i) => ({ ...region(`p${i}`, p), kind: 'part' as const })),
  ]
  await engine.timelines.saveSplit(t.id, { regions, markers: [{ id: 'm', at: 45, name: 'Bell' }] }, t.splitVersion)
  const about = { format: 'velvet-crane-spec/1', id: 'tff', name: 'Fields', recipient: 'House', issued: '2026-03-01' }
  const rules = [
    ['scan', { equals: 'interlaced-tff' }],
    ['frame-rate', { equals: '25/1' }],
    ['programme-duration', { min: 1.2, max: 1.2 }],
    ['fields', { equals: 'as labelled' }],
  ].map(([measure, expect]) => ({ ...{ id: measure, measure, expect }, severity: 'must', clause: '1' }))
  await engine.outlets.saveSpec(parseSpec({ ...about, rules }))
  await engine.outlets.save(outlet('whole', 'storage', recipe('broadcast'), { spec: 'tff' }))
  await engine.outlets.save(
    outlet('parts', 'storage', recipe('mpeg2', { scan: 'interlaced-bff', breaks: 1, start: '00:00:10:00' })),
  )
  await engine.outlets.choose(
    ['whole', 'parts'].map((outletId) => ({ timelineId: t.id, regionId: 'all', outletId })),
    true,
  )
  await drain(engine)
})
afterAll(async () => {
  for (const close of closing) await close()
  await engine.close()
  remove()
})

it('is offered where a recipient asks for fields, and makes them', async () => {
  const scan = async () => {
    const { results } = (await deliverables(engine)).find((d) => d.outletId === 'whole')!
    return results.find((r) => r.rule.measure === 'scan')!
  }
  expect((await scan()).fix?.overrides).toEqual({ scan: 'interlaced-tff' })
  await engine.nights.fix([{ timelineId: timeline, regionId: 'all', outletId: 'whole' }], (await scan()).rule.id)
  await drain(engine)
  expect((await scan()).verdict).toBe('pass')
  await engine.nights.start('night', 2)
  await drain(engine)
  const { items } = await latestRun(engine)
  expect(items.map((i) => [i.state, i.problem])).toEqual(Array(2).fill(['done', null]))
  for (const i of items) {
    const { proof } = (await engine.handover.one(i.id))!
    expect([proof.verdict, proof.ends!.first < 3, proof.ends!.last < 3]).toEqual(['pass', true, true])
  }
  files = items.map((i) => path.join(storage, i.path!))
  const { proof } = (await engine.handover.one(items[0]!.id))!
  expect(proof.results.find((r) => r.rule.measure === 'fields')!.why).toBe(
    'Fields: of two moments, the top field first, as required.',
  )
})

it('is seen to have them by what moves, also where a file is labelled otherwise', async () => {
  const made = await engine.timelines.bringIn({ root: 'storage', path: path.relative(storage, files[0]!) })
  const region = (name: string) => ({ id: 'r', name, in: 0, out: 30, metadata: {} })
  await engine.timelines.saveSplit(made.id, { regions: [region('made')], markers: [] }, made.splitVersion)
  await engine.outlets.save(outlet('mov', 'storage', recipe('master')))
  await engine.outlets.choose([{ timelineId: made.id, regionId: 'r', outletId: 'mov' }], true)
  // the checksums it was delivered with stand beside it
  await engine.timelines.media.look()
  await drain(engine)
  await engine.nights.start('mov', 2)
  await drain(engine)
  const mov = path.join(storage, (await latestRun(engine)).items[0]!.path!)
  const bytes = readFileSync(mov)
  const label = bytes.indexOf('fiel') + 4
  const labelled = async (scan: string, fields: readonly number[]) => {
    bytes.set(fields, label)
    writeFileSync(path.join(storage, `${scan}.mov`), bytes)
    const t = await engine.timelines.bringIn({ root: 'storage', path: `${scan}.mov` })
    await engine.timelines.saveSplit(t.id, { regions: [region(scan)], markers: [] }, t.splitVersion)
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'mov' }], true)
    await drain(engine)
    expect(t.info.video[0]!.scan).toBe(scan)
    const found = (await engine.viewing.analysis(t)).pictures!.fields!.two
    expect(found.map((r) => r.first)).toEqual(['top'])
    expect(found[0]!.out - found[0]!.in).toBeGreaterThan(20)
    const { results } = (await deliverables(engine)).find((d) => d.timelineId === t.id)!
    const { verdict, why } = results.find((r) => r.rule.id === 'trap-fields')!
    const elsewhere = await measureFile(path.join(storage, `${scan}.mov`))
    return [verdict, why.replace(/\(.*\)/, '(…)'), elsewhere.fields!.value]
  }
  const one = 'of two moments, the top field first'
  expect(await labelled('interlaced-tff', [2, 1])).toEqual(['pass', `Fields: ${one}, as required.`, 'as labelled'])
  expect(await labelled('interlaced-bff', [2, 6])).toEqual([
    'caution',
    `Fields: ${one}, said to be interlaced, bottom field first (…); required: as labelled.`,
    'otherwise',
  ])
  expect(await labelled('progressive', [1, 0])).toEqual([
    'caution',
    `Fields: ${one}, said to be progressive (…); required: as labelled.`,
    'otherwise',
  ])
})

/** The frames of the timeline that both fields of a picture are of, the upper one first. */
function counted(p: Picture): (number | null)[] {
  return fieldsOf(p).map((field) => readCounter(woven(field, field).planes[0], p.width, p.bitDepth))
}

async function mediaOf(file: string): Promise<Media> {
  const source = await openFile(file)
  closing.push(() => source.close())
  return openMedia(source)
}

async function opened(file: string): Promise<{ media: Media; fields: (number | null)[][] }> {
  const media = await mediaOf(file)
  const fields: (number | null)[][] = []
  const all = { in: 0, out: media.video[0]!.info.frames }
  for await (const { picture } of openPictures(media, machineCodecs()).read(all)) fields.push(counted(picture))
  return { media, fields }
}

async function sameSound(media: Media, n: Frames, frame: Frames, frames: Frames): Promise<boolean> {
  const reel = await mediaOf(path.join(storage, 'reel.mov'))
  const at = (x: Frames, r = makeRate(25)) => sampleAtFrame(x, r, 48000)
  const a = await openSound(media, machineCodecs())!.read(at(n), at(frames))
  const b = await openSound(reel, machineCodecs())!.read(at(frame, rate), at(frames))
  return a.every((c, i) => c.every((v, k) => Math.abs(v - b[i]![k]!) < 2 ** -22))
}

it('and is taken for what a person says it is, by all that is not a copy of the file', async () => {
  const all = await engine.timelines.list()
  const t = all.find((x) => x.name === 'progressive')!
  const asked = async () => {
    await drain(engine)
    const list = (await deliverables(engine)).filter((d) => d.timelineId === t.id)
    return Object.fromEntries(
      list.map((d) => [
        d.outletId,
        ['fields', 'scan'].map((m) => d.results.find((r) => r.rule.measure === m)?.verdict).join(),
      ]),
    )
  }
  const spec = 'tff-alone'
  const rules = [{ id: 'scan', measure: 'scan', severity: 'must', expect: { equals: 'interlaced-tff' }, clause: '1' }]
  const about = { format: 'velvet-crane-spec/1', id: spec, name: 'Top', recipient: 'House', issued: '2026-03-01' }
  await engine.outlets.saveSpec(parseSpec({ ...about, rules }))
  await engine.outlets.save(outlet('mov', 'storage', recipe('master'), { spec }))
  await engine.outlets.save(outlet('copy', 'storage', recipe('rewrap'), { spec }))
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'copy' }], true)
  expect(await asked()).toEqual({ mov: 'caution,fail', copy: 'caution,fail' })
  await engine.timelines.setScan(t.id, 'interlaced-tff')
  // a copy goes on saying what its file says
  expect(await asked()).toEqual({ mov: 'pass,pass', copy: 'caution,fail' })
  await engine.nights.start('said', 2, [keyText({ timelineId: t.id, regionId: 'r', outletId: 'mov' })])
  await drain(engine)
  const { items } = await latestRun(engine)
  expect(items.map((i) => [i.state, i.problem])).toEqual([['done', null]])
  const made = await openMediaFile(path.join(storage, items[0]!.path!), 'made')
  await made.close()
  expect(made.info.video[0]!.scan).toBe('interlaced-tff')
  await engine.timelines.setScan(t.id, null)
  expect(await asked()).toEqual({ mov: 'caution,fail', copy: 'caution,fail' })
})

it('has each frame in the lines of its field, top field first', async () => {
  const { media, fields } = await opened(files[0]!)
  expect(media.info).toMatchObject({ durationFrames: 30, timecode: { start: '10:00:00:02' } })
  expect(media.info.video[0]).toMatchObject({ scan: 'interlaced-tff', rate: makeRate(25) })
  expect(fields).toEqual(Array.from({ length: 30 }, (_, n) => [4 + 2 * n, 5 + 2 * n]))
  expect(media.info.chapters.map((c) => Math.round((c.at * 25) / c.timescale))).toEqual([20])
  expect(await sameSound(media, 0, 4, 30)).toBe(true)
})

it('has them in parts, bottom field first, with whole seconds of black between', async () => {
  const { media, fields } = await opened(files[1]!)
  expect(media.info).toMatchObject({ durationFrames: 10 + 25 + 10, timecode: { start: '00:00:10:00' } })
  const own = (from: Frames) => Array.from({ length: 10 }, (_, n) => [from + 2 * n + 1, from + 2 * n])
  expect([fields.slice(0, 10), fields.slice(35)]).toEqual([own(8), own(40)])
  expect(media.info.chapters.map((c) => Math.round((c.at * 25) / c.timescale))).toEqual([37])
  expect(await sameSound(media, 0, 8, 10)).toBe(true)
  expect(await sameSound(media, 35, 40, 10)).toBe(true)
})

it('cannot be tried beside the timeline, and says why', async () => {
  const key = { timelineId: timeline, regionId: 'all', outletId: 'whole' }
  await expect(
    engine.tryouts.start({ ...key, in: 4, out: 24, values: { scan: 'interlaced-tff' } }),
  ).rejects.toMatchObject({ problem: { code: 'tryout.fields' } })
})
