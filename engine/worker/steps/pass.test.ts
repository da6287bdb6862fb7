import { mkdirSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { encodePcm } from '../../../core/codec/pcm/pcm'
import { encodeV210 } from '../../../core/codec/v210/v210'
import { pictureMeters } from '../../../core/analysis/pictures'
import { tracer } from '../../../core/analysis/trace'
import { blackPicture, type Picture } from '../../../core/picture/picture'
import { makeRate } from '../../../core/time/rate'
import { plainMov } from '../../../tests/plainmov'
import { drain, scratchFolder, testEngine, workHere } from '../../../tests/fixtures'
import { fileSink } from '../../storage/disk'
import type { Session } from '../../session'
import { segmentLength } from '../../storage/framestore'
import type { SplitTimeline } from '../../../core/split/timeline'

// The standards' own cases through the whole pass, in segments: EBU Tech 3341, R 103, BT.1702.

const { folder, remove } = scratchFolder()
const rate = makeRate(25)
const [width, height, frames] = [96, 54, 2000]

/** Stripes that move, so that no frame is like the one before; faults at places that segments cut through. */
function draw(n: number): Picture {
  const p = blackPicture(width, height, '4:2:2', 10)
  const scene = n < 1200 ? 0 : 1
  const fill = (code: number) => p.planes[0].fill(code << 2)
  if (n >= 497 && n < 503) return p
  const k = n >= 745 && n < 790 ? 745 : n
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      p.planes[0][y * width + x] =
        (scene ? 60 + (((y >> 2) * 37 + k) % 100) : 90 + (((x >> 3) * 53 + k * 2) % 110)) << 2
  // BT.1702: five flashes a second for two seconds, over the end of a segment
  if (n >= 230 && n < 280 && Math.floor(((n - 230) * 10) / 25) % 2) fill(225)
  // R 103: a field beyond 105 %
  if (n >= 1490 && n < 1510) p.planes[0].fill(250 << 2, 0, (width * height) / 4)
  return p
}

/** EBU Tech 3341 case 3: a stereo tone of 1 kHz at −36, −23 and −36 dBFS for 10, 60 and 10 s. */
function tone(sample: number): number {
  const seconds = sample / 48000
  const level = seconds >= 10 && seconds < 70 ? -23 : -36
  return 10 ** (level / 20) * Math.sin((2 * Math.PI * 1000 * sample) / 48000)
}

async function make(file: string): Promise<void> {
  const { head, picture, step } = plainMov(width, height, frames, 90_000)
  const sink = await fileSink(file)
  await sink.write(0, head)
  for (let n = 0; n < frames; n++) {
    const sound = Float32Array.from({ length: 1920 }, (_, i) => tone(n * 1920 + i))
    await sink.write(head.length + n * step, encodeV210(draw(n)))
    await sink.write(head.length + n * step + picture, encodePcm([sound, sound], 24, false))
  }
  await sink.finish()
}

let engine: Session
let t: SplitTimeline
beforeAll(async () => {
  const storage = path.join(folder, 'storage')
  mkdirSync(storage, { recursive: true })
  await make(path.join(storage, 'cases.mov'))
  engine = await testEngine(folder)
  t = await engine.timelines.bringIn({ root: 'storage', path: 'cases.mov' })
})
afterAll(async () => {
  await engine.close()
  remove()
})

const open = () =>
  engine.db
    .selectFrom('step')
    .select(['kind', 'key'])
    .where('run_id', 'is', null)
    .where('state', 'in', ['ready', 'claimed'])
    .execute()

describe('the pass', () => {
  it('is in segments, broken off and gone on with: only what is missing is done again', async () => {
    const segments = frames / segmentLength
    expect((await open()).filter((x) => x.kind === 'analyse-segment')).toHaveLength(segments)
    let left = 9
    const counting = setInterval(() => void open().then((l) => (left = l.length)), 20)
    await workHere(engine, 1, () => left <= segments - 3)
    clearInterval(counting)
    const before = (await open()).filter((x) => x.kind === 'analyse-segment').length
    expect(before).toBeLessThan(segments)
    expect(before).toBeGreaterThan(0)
    // as at the next start
    await engine.db.deleteFrom('step').execute()
    await engine.timelines.analyse(t)
    expect((await open()).filter((x) => x.kind === 'analyse-segment')).toHaveLength(before)
    expect((await engine.viewing.analysis(t)).progress).toBeGreaterThan(0)
    await drain(engine)
    expect((await engine.viewing.analysis(t)).progress).toBe(1)
  })
  it('finds what one look at every frame finds, wherever segments were cut', async () => {
    const meters = pictureMeters({ rate, width, height, colour: null })
    const { take } = tracer()
    for (let n = 0; n < frames; n++) meters.feed(take(draw(n)))
    const { pictures } = await engine.viewing.analysis(t)
    expect(pictures).toEqual(JSON.parse(JSON.stringify(meters.result())))
  })
  it('finds black, freeze, flashes (BT.1702), levels (R 103) and the cut where they are', async () => {
    const { pictures } = await engine.viewing.analysis(t)
    expect(pictures!.black).toEqual([{ in: 497, out: 503 }])
    expect(pictures!.freeze).toEqual([{ in: 745, out: 790 }])
    expect(pictures!.flashes).toHaveLength(1)
    expect(pictures!.flashes[0]!.in).toBeGreaterThanOrEqual(230)
    expect(pictures!.flashes[0]!.out).toBeLessThanOrEqual(281)
    expect(pictures!.levels!.excursions.map((e) => [e.in, e.out])).toEqual([[1490, 1510]])
    expect(pictures!.cuts!.filter((c) => c.at === 1200)).toEqual([{ at: 1200, kind: 'cut', from: 1200, to: 1200 }])
  })
  it('measures EBU Tech 3341 case 3 as −23.0 ± 0.1 LUFS, momentary and short-term beside it', async () => {
    const { sound } = await engine.viewing.analysis(t)
    expect(Math.abs(sound!.facts.integrated! + 23)).toBeLessThanOrEqual(0.1)
    expect([sound!.ribbon[350], sound!.momentary[350], sound!.momentary[50]].map((v) => Math.round(v!))).toEqual([
      -23, -23, -36,
    ])
    expect(sound!.faults).toEqual({ silence: [], clicks: [], dropouts: [], data: [], phase: [] })
  })
  it('knows the same media at once when it comes again under another name', async () => {
    await make(path.join(folder, 'storage', 'again.mov'))
    const again = await engine.timelines.bringIn({ root: 'storage', path: 'again.mov' })
    expect(await open()).toEqual([])
    expect((await engine.viewing.analysis(again)).pictures!.black).toEqual([{ in: 497, out: 503 }])
  })
  it('gives a preview of every frame', async () => {
    for (const n of [0, 249, 250, 1999])
      expect((await engine.viewing.picture(t, n, 160)).subarray(0, 2)).toEqual(Buffer.from([0xff, 0xd8]))
  })
})
