import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { RegionSound } from '../../core/analysis/soundstretches'
import { encodePcm } from '../../core/codec/pcm/pcm'
import { wavHead } from '../../core/container/wav/write'
import { readRegionsCsv } from '../../core/split/regionscsv'
import { keyText } from '../../core/deliverable/outlet'
import { resampled } from '../../core/sound/resample'
import type { SplitTimeline } from '../../core/split/timeline'
import { makeRate } from '../../core/time/rate'
import { deliverables, drain, latestRun, outlet, recipe, scratchFolder, testEngine } from '../../tests/fixtures'
import type { Session } from '../session'
import { openMediaFile } from '../storage/mediafile'
import { factKeys, readFacts } from '../store/facts'

// Sound alone as a timeline: counted in samples, split at any of them, proven sample by sample.

const { folder, remove } = scratchFolder()
const sampleRate = 44100
const length = sampleRate * 6 + 1234
let engine: Session
let t: SplitTimeline
let channels: Float32Array[]

const place = (name: string) => path.join(folder, 'storage', name)

/** A 24-bit wave file with cue points and a time reference of ten hours. */
function writeWave(name: string, sound: readonly Float32Array[], cues: readonly { at: number; name: string }[]): void {
  const head = wavHead({
    channels: sound.length,
    sampleRate,
    bitDepth: 24,
    samples: sound[0]!.length,
    cues,
    bext: {
      ...{ description: '', originator: '', originatorReference: '', date: '', time: '', history: '' },
      timeReference: 36_000 * sampleRate,
      loudness: null,
    },
  })
  writeFileSync(place(name), Buffer.concat([head, encodePcm([...sound], 24, true)]))
}

beforeAll(async () => {
  mkdirSync(path.join(folder, 'storage'), { recursive: true })
  engine = await testEngine(folder)
  const wave = (phase: number) =>
    Float32Array.from({ length }, (_, i) => Math.fround(0.3 * Math.sin(phase + i / 11) * Math.sin(i / 5000)))
  channels = [wave(0), wave(1)]
  channels[0]![150_003]! += 0.6
  writeWave('tape.wav', channels, [
    { at: 1, name: 'Fog horn' },
    { at: 88_201, name: 'Bell' },
  ])
  t = await engine.timelines.bringIn({ root: 'storage', path: 'tape.wav' })
})
afterAll(async () => {
  await engine.close()
  remove()
})

/** Samples of a channel, silence where there are none. */
const pick = (x: Float32Array, from: number, n: number) => Float32Array.from({ length: n }, (_, i) => x[from + i] ?? 0)
const region = (id: string, from: number, to: number) => ({ id, name: id, in: from, out: to, metadata: {} })

it('is counted in samples from its time reference; cue points are its chapters', () => {
  expect(t.model).toMatchObject({ rate: makeRate(sampleRate), start: 36_000 * sampleRate, length })
  expect(t.split.markers.map((m) => [m.at, m.name])).toEqual([
    [1, 'Fog horn'],
    [88_201, 'Bell'],
  ])
  expect(t.problems).toEqual([])
})

it('is heard once, with what is wrong in it to the sample', async () => {
  await drain(engine)
  const { pictures, sound } = await engine.viewing.analysis(t)
  expect(pictures).toBeNull()
  expect(sound!.faults.clicks.some((c) => c.in <= 150_003 && c.out > 150_003 && c.out - c.in < 100)).toBe(true)
  expect(sound!.ribbon.length).toBeGreaterThanOrEqual(60)
  await expect(engine.viewing.picture(t, 5, 100)).rejects.toMatchObject({ problem: { code: 'media.no-pictures' } })
})

describe('regions between any two samples', () => {
  const ranges = [
    region('first', 7, 100_000),
    region('second', 100_000, 200_011),
    region('blink', 200_011, 200_012),
    region('rest', 200_012, length),
  ]
  it('are written sample by sample, with their chapters and where they began', async () => {
    await engine.timelines.saveSplit(t.id, { regions: ranges, markers: t.split.markers }, t.splitVersion)
    await engine.outlets.save(outlet('o', 'storage', recipe('sound')))
    const keys = ranges.map((r) => ({ timelineId: t.id, regionId: r.id, outletId: 'o' }))
    await engine.outlets.choose(keys, true)
    await drain(engine)
    expect((await deliverables(engine)).filter((d) => !d.cleared)).toEqual([])
    await engine.nights.start('sound alone', 2)
    await drain(engine)
    const run = await latestRun(engine)
    expect(run.items.map((i) => [i.state, i.problem])).toEqual(ranges.map(() => ['done', null]))
    const whole = await openMediaFile(place('tape.wav'), 'tape.wav')
    for (const [i, r] of ranges.entries()) {
      const opened = await openMediaFile(place(run.items[i]!.path), run.items[i]!.path)
      const written = await opened.sound(null)!.read(0, r.out - r.in)
      const asked = await whole.sound(null)!.read(r.in, r.out - r.in)
      expect(opened.info.audio[0]!.samples).toBe(r.out - r.in)
      expect(written).toEqual(asked)
      expect(opened.info.bext!.timeReference).toBe(36_000 * sampleRate + r.in)
      await opened.close()
    }
    await whole.close()
    const second = await openMediaFile(place(run.items[0]!.path), '')
    expect(second.info.chapters.map((c) => [c.at, c.name])).toEqual([[88_194, 'Bell']])
    await second.close()
  })
  it('come at another sample rate where the recipe says so, as long, in place, and with their chapters', async () => {
    const r = ranges[0]!
    for (const rate of [48000, 96000] as const) {
      const id = `at-${rate}`
      await engine.outlets.save(outlet(id, 'storage', recipe('sound', { sampleRate: rate })))
      const key = { timelineId: t.id, regionId: r.id, outletId: id }
      await engine.outlets.choose([key], true)
      await drain(engine)
      const [d] = (await deliverables(engine)).filter((x) => x.outletId === id)
      expect(d!.output.notes).toEqual([`The sound is brought from 44.1 to ${rate / 1000} kHz.`])
      await engine.nights.start(id, 2, [keyText(key)])
      await drain(engine)
      const [item] = (await latestRun(engine)).items
      expect([item!.state, item!.problem]).toEqual(['done', null])
      const at = (n: number) => Math.round((n * rate) / sampleRate)
      const opened = await openMediaFile(place(item!.path), item!.path)
      expect(opened.info.audio[0]).toMatchObject({ sampleRate: rate, samples: at(r.out) - at(r.in) })
      expect(opened.info.chapters.map((c) => c.at)).toEqual([at(88_201) - at(r.in)])
      const [written] = await opened.sound(null)!.read(0, 20_000)
      const heard = { sampleRate, read: async (from: number, n: number) => [pick(channels[0]!, from, n)] }
      const [asked] = await resampled(heard, rate).read(at(r.in), 20_000)
      expect(Math.max(...written!.map((v, i) => Math.abs(v - asked![i]!)))).toBeLessThan(2 ** -22)
      await opened.close()
    }
  })
  it('are measured as their own sound is, alone in a file', async () => {
    const r = ranges[1]!
    const own = channels.map((c) => c.subarray(r.in, r.out))
    writeWave('alone.wav', own, [])
    const alone = await engine.timelines.bringIn({ root: 'storage', path: 'alone.wav' })
    await drain(engine)
    const key = factKeys.regionSound(t.fingerprint, [r], { route: [0, 1] })
    const region = (await readFacts(engine.db, [key])).get(key) as RegionSound
    const { facts, faults } = (await engine.viewing.analysis(alone)).sound!
    const { sourcePeaks, head, ...measured } = region
    expect(head).toBeNull()
    expect({ ...measured, faults: null }).toEqual({ ...facts, faults: null })
    expect(sourcePeaks.map((p) => p?.toFixed(3))).toEqual(facts.peaks.map((p) => p?.toFixed(3)))
    expect(region.faults).toEqual(faults)
    expect(region.faults.clicks.some((c) => c.in <= 50_003 && c.out > 50_003)).toBe(true)
    await engine.timelines.remove(alone.id)
  })
  it('are read from a list, by times of day and by samples', () => {
    const csv = 'name,in,out,chapters\na,10:00:00.5,10:00:01:00003,10:00:00.75 Half\n'
    expect(readRegionsCsv(csv, t.model, 'list.csv')).toEqual([
      { name: 'a', in: 22_050, out: 44_103, chapters: [{ at: 33_075, name: 'Half' }] },
    ])
  })
})

it('is kept out of what needs pictures, with what to do instead', async () => {
  for (const kind of ['master', 'viewing', 'rewrap']) {
    await engine.outlets.save(outlet(kind, 'storage', recipe(kind)))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'first', outletId: kind }], true)
  }
  const judged = (await deliverables(engine)).filter((d) => d.recipe.kind !== 'sound')
  expect(judged.map((d) => [d.outletId, d.cleared])).toEqual([
    ['master', false],
    ['viewing', false],
    ['rewrap', false],
  ])
  for (const d of judged) expect(d.output.problems[0]).toMatchObject({ fix: 'Use a sound recipe.' })
})

it('takes chapters of a list, and no cuts', async () => {
  writeFileSync(place('tape.vtt'), 'WEBVTT\n\n00:00:02.500 --> 00:00:03.000\nGull\n')
  writeFileSync(place('tape.edl'), 'TITLE: TAPE\n\n001  AX V C 00:00:00:00 00:00:01:00 00:00:00:00 00:00:01:00\n')
  const cuts = { root: 'storage', path: 'tape.edl' }
  await expect(engine.timelines.attachCuts(t.id, cuts)).rejects.toMatchObject({
    problem: { code: 'timeline.sound-cuts' },
  })
  const now = await engine.timelines.attachCuts(t.id, { root: 'storage', path: 'tape.vtt' })
  expect(now.split.markers.map((m) => [m.at, m.name])).toContainEqual([110_250, 'Gull'])
})

it('says why a file with nothing in it is no timeline', async () => {
  writeFileSync(place('empty.wav'), readFileSync(place('tape.wav')).subarray(0, 40))
  writeWave('none.wav', [new Float32Array(0)], [])
  await expect(engine.timelines.bringIn({ root: 'storage', path: 'none.wav' })).rejects.toMatchObject({
    problem: { code: 'timeline.empty' },
  })
  await expect(engine.timelines.bringIn({ root: 'storage', path: 'empty.wav' })).rejects.toThrow()
})
