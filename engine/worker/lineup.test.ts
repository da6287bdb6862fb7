import { mkdirSync, rmSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { unescapeNal } from '../../core/bits'
import { openPictures } from '../../core/codec/pictures'
import { SliceReader } from '../../core/codec/h264-intra/slicebits'
import { unitsOf } from '../../core/codec/nal'
import { openSound } from '../../core/codec/sound'
import { openMedia } from '../../core/container/registry'
import type { Outlet } from '../../core/deliverable/outlet'
import { keyText } from '../../core/deliverable/outlet'
import { pictureDifference, type Picture } from '../../core/picture/picture'
import { fitPicture } from '../../core/picture/scale'
import { sampleAtFrame } from '../../core/time/samples'
import { makeRate } from '../../core/time/rate'
import { deliver, drain, latestRun, outlet, recipe, scratchFolder, smallReel, testEngine } from '../../tests/fixtures'
import type { Session } from '../session'
import { openFile } from '../storage/disk'
import { machineCodecs } from './codecs'
import { measureFile } from './measurefile'

// Line-up in front of a programme: made, written, proven, and found again in the file by one who knows nothing of it.

const { folder, remove } = scratchFolder()
const storage = path.join(folder, 'storage')
let engine: Session
let file = ''
const range = { in: 47, out: 77 }
const lead = 750

beforeAll(async () => {
  mkdirSync(storage, { recursive: true })
  await smallReel(path.join(storage, 'reel.mov'))
  engine = await testEngine(folder)
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'reel.mov' })
  const region = { id: 'r', name: 'Fog Bell', ...range, metadata: { 'production number': 'FA-103' } }
  const marker = { id: 'm', at: 60, name: 'Bell' }
  await engine.timelines.saveSplit(t.id, { regions: [region], markers: [marker] }, t.splitVersion)
  const master = recipe('broadcast', { lineUp: -18, start: '10:00:00:00', channels: [1, 2, 0, 0] })
  const asked: Outlet = outlet('House', 'storage', master)
  await engine.outlets.save(asked)
  const key = { timelineId: t.id, regionId: 'r', outletId: 'House' }
  await engine.outlets.choose([key], true)
  await drain(engine)
  await engine.nights.start('House', 2, [keyText(key)])
  await drain(engine)
  const { items } = await latestRun(engine)
  expect(items.map((i) => [i.state, i.verdict, i.problem])).toEqual([['done', 'pass', null]])
  file = path.join(storage, items[0]!.path)
})
afterAll(async () => {
  await engine.close()
  rmSync(file, { force: true })
  remove()
})

async function opened<T>(use: (media: Awaited<ReturnType<typeof openMedia>>) => Promise<T>): Promise<T> {
  const source = await openFile(file)
  try {
    return await use(await openMedia(source))
  } finally {
    await source.close()
  }
}

const pictureAt = (n: number) =>
  opened(async (media) => {
    for await (const { picture } of openPictures(media, machineCodecs()).read({ in: n, out: n + 1 })) return picture
    throw new Error(`no picture ${n}`)
  })

/** Luma, Cb and Cr in the middle of each of the eight bars, high up. */
const barsOf = ({ planes, width }: Picture) =>
  Array.from({ length: 8 }, (_, k) =>
    planes.map((p, i) => p[100 * (i ? width / 2 : width) + Math.round(((k + 0.5) * (i ? width / 2 : width)) / 8)]!),
  )

it('begins half a minute before the programme, which begins where it was to', async () => {
  const { info } = await opened((m) => Promise.resolve(m))
  expect(info).toMatchObject({ durationFrames: lead + 30, problems: [], timecode: { start: '09:59:30:00' } })
  expect(info.chapters.map((c) => [Math.round((c.at * 25) / c.timescale), c.name])).toEqual([[lead + 13, 'Bell']])
  const reel = await openFile(path.join(storage, 'reel.mov'))
  for await (const { picture } of openPictures(await openMedia(reel), machineCodecs()).read({ in: 47, out: 48 }))
    expect(
      pictureDifference(fitPicture(picture, { width: 1920, height: 1080, fit: 'letterbox' }), await pictureAt(lead)),
    ).toBeLessThan(1)
  await reel.close()
})

it('shows the bars in their own codes, a clock, and black', async () => {
  // SMPTE RP 219-1, 75 % bars, 10 bit; 100 % white and black
  expect(barsOf(await pictureAt(3))).toEqual([
    [940, 512, 512],
    [674, 176, 543],
    [581, 589, 176],
    [534, 253, 207],
    [251, 771, 817],
    [204, 435, 848],
    [111, 848, 481],
    [64, 512, 512],
  ])
  const [ten, same, nine] = [await pictureAt(500), await pictureAt(524), await pictureAt(525)]
  expect(pictureDifference(ten, same)).toBeLessThan(0.05)
  expect(pictureDifference(ten, nine)).toBeGreaterThan(0.1)
  expect([...new Set((await pictureAt(700)).planes[0])]).toEqual([64])
})

it('has its tone on the channels that are heard, silence after it, and the programme to the sample', async () => {
  const at = (n: number) => sampleAtFrame(n, makeRate(25), 48000)
  const reel = await openFile(path.join(storage, 'reel.mov'))
  const own = await openSound(await openMedia(reel), machineCodecs())!.read(at(47), at(30))
  await reel.close()
  await opened(async (media) => {
    const sound = openSound(media, machineCodecs())!
    const tone = await sound.read(0, at(500))
    const most = (c: Float32Array) => c.reduce((m, v) => Math.max(m, Math.abs(v)), 0)
    expect(tone.map((c) => Math.round(200 * Math.log10(most(c))) / 10)).toEqual([-18, -18, -Infinity, -Infinity])
    // 1 kHz: a period is 48 samples
    expect(Math.abs(tone[0]![48_012]! - tone[0]![12]!)).toBeLessThan(1e-6)
    expect((await sound.read(at(500), at(250))).map(most)).toEqual([0, 0, 0, 0])
    const programme = await sound.read(at(lead), at(30))
    expect(programme.slice(0, 2).map((c, k) => c.every((v, i) => v === own[k]![i]))).toEqual([true, true])
  })
})

it('tells each picture from the next, where segments meet as well (ITU-T H.264 7.4.3, idr_pic_id)', async () => {
  const ids = await opened(async ({ source, video: [track] }) => {
    const out: number[] = []
    for (let i = 0; i < track!.sampleCount; i++) {
      const { offset, size } = track!.sample(i)
      const slice = unitsOf(await source.read(offset, size)).find((u) => (u[0]! & 31) === 5)!
      const r = new SliceReader(unescapeNal(slice.subarray(1, 40)))
      // first macroblock, kind of slice, parameter set, frame number, whether it is a field and which
      r.ue()
      r.ue()
      r.ue()
      r.u(4)
      if (r.u(1)) r.u(1)
      out.push(r.ue())
    }
    return out
  })
  expect(ids).toHaveLength(lead + 30)
  expect(ids.filter((id, i) => id === ids[i - 1])).toEqual([])
})

it('is left out of what is measured of the programme, in the proof and in the file of a stranger', async () => {
  const { items } = await latestRun(engine)
  const { proof } = (await engine.handover.one(items[0]!.id))!
  expect(proof).toMatchObject({ frames: lead + 30, decoded: lead + 30 })
  const found = await measureFile(file)
  expect(found['line-up']).toMatchObject({ value: ['line-up', 'clock', 'black'] })
  expect(found['programme-start']).toMatchObject({ value: '10:00:00:00' })
  expect(found['start-timecode']).toMatchObject({ value: '09:59:30:00' })
  expect(found['tone-level']!.text).toBe('−18.0 dBFS in channels 1 and 2')
  expect(found['programme-duration']).toMatchObject({ value: 1.2 })
  expect(found.loudness!.value).toBeCloseTo(proof.sound!.integrated!, 1)
  expect(found.black).toMatchObject({ value: 0 })
  expect(found.metadata).toMatchObject({ value: { 'production number': 'FA-103' } })
  expect(found.freeze).toMatchObject({ value: 0 })
})

it('stands in front of an uncompressed master as well', async () => {
  const by = recipe('master', { ...{ lineUp: -18, start: '10:00:00:00', width: 320, height: 180 }, channels: [1] })
  const done = await deliver(engine, { name: 'plain', file: 'reel.mov', range, by })
  expect([done.state, done.verdict, done.problem]).toEqual(['done', 'pass', null])
  const source = await openFile(path.join(storage, done.path))
  const media = await openMedia(source)
  expect(media.info).toMatchObject({ durationFrames: lead + 30, timecode: { start: '09:59:30:00' } })
  const one = async (n: number) => {
    for await (const { picture } of openPictures(media, machineCodecs()).read({ in: n, out: n + 1 })) return picture
    throw new Error(`no picture ${n}`)
  }
  const yellow = barsOf(await one(0))[1]!
  ;[674, 176, 543].forEach((code, i) => expect(Math.abs(yellow[i]! - code)).toBeLessThanOrEqual(1))
  const sound = await openSound(media, machineCodecs())!.read(0, 48000)
  expect(20 * Math.log10(sound[0]!.reduce((m, v) => Math.max(m, Math.abs(v)), 0))).toBeCloseTo(-18, 1)
  const reel = await openFile(path.join(storage, 'reel.mov'))
  for await (const { picture } of openPictures(await openMedia(reel), machineCodecs()).read({ in: 76, out: 77 })) {
    const own = fitPicture(picture, { width: 320, height: 180, fit: 'letterbox' })
    expect(pictureDifference(own, await one(lead + 29))).toBeLessThan(1)
  }
  await Promise.all([source.close(), reel.close()])
})
