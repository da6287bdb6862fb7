import { mkdirSync, writeFileSync } from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { RuleResult } from '../../core/spec/judge'
import { openSpec } from '../../core/spec/shipped'
import { writeInterchange } from '../../core/timeline/formats/registry'
import { normalSpeed, type Timeline, type TimelineEvent } from '../../core/timeline/model'
import { makeRate } from '../../core/time/rate'
import {
  deliver,
  drain,
  outlet,
  recipe,
  scratchFolder,
  smallReel,
  testEngine,
  deliverables,
} from '../../tests/fixtures'
import type { Session } from '../session'
import { machineCodecs } from '../worker/codecs'
import { openMediaFile } from '../storage/mediafile'
import { factKeys, readFacts } from '../store/facts'
import type { RegionSound } from '../../core/analysis/soundstretches'
import type { SplitTimeline } from '../../core/split/timeline'

// Sound with faults through the pass: on the station, in readings of regions, and held against a specification.

const { folder, remove } = scratchFolder()
let engine: Session
const frame = 1920
beforeAll(async () => {
  mkdirSync(path.join(folder, 'storage', 'cards'), { recursive: true })
  engine = await testEngine(folder)
})
afterAll(async () => {
  await engine.close()
  remove()
})

/** Two channels of a tone over the 120 frames of a small reel, with what `spoil` does to them. */
async function reel(name: string, spoil: (l: Float32Array, r: Float32Array) => void): Promise<SplitTimeline> {
  const tone = (phase: number) =>
    Float32Array.from({ length: 120 * frame }, (_, i) => 0.2 * Math.sin(phase + (2 * Math.PI * 440 * i) / 48000))
  const channels = [tone(0), tone(0.3)]
  spoil(channels[0]!, channels[1]!)
  await smallReel(path.join(folder, 'storage', `${name}.mov`), { channels })
  return engine.timelines.bringIn({ root: 'storage', path: `${name}.mov` })
}
async function regionOf(t: SplitTimeline, range: { in: number; out: number }): Promise<RegionSound> {
  const now = await engine.timelines.get(t.id)
  await engine.timelines.saveSplit(
    t.id,
    { regions: [{ id: 'r', name: 'R', ...range, metadata: {} }], markers: [] },
    now.splitVersion,
  )
  await engine.outlets.save(outlet('o', 'storage', recipe('master'), { spec: 'northmere' }))
  await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: 'o' }], true)
  await deliverables(engine)
  await drain(engine)
  const key = factKeys.regionSound(t.fingerprint, [range], { route: [0, 1] })
  return (await readFacts(engine.db, [key])).get(key) as RegionSound
}

it('a file that is written in more bits than its sound has is known to be, where its recipient asks', async () => {
  const coarse = (x: Float32Array) => void x.forEach((v, i) => (x[i] = Math.round(v * 32768) / 32768))
  const t = await reel('coarse', (l, r) => [l, r].forEach(coarse))
  const regions = [{ id: 'r', name: 'R', in: 0, out: 50, metadata: {} }]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  const expect24 = {
    id: 'depth',
    measure: 'sound-depth-used',
    severity: 'should',
    expect: { equals: 'all' },
    clause: '1',
  } as const
  await engine.outlets.saveSpec({ ...openSpec, id: 'depth', name: 'Depth', rules: [expect24] })
  for (const soundDepth of [16, 24] as const) {
    const by = recipe('sound', { soundDepth, channels: [1, 2] })
    await engine.outlets.save(outlet(`in${soundDepth}`, 'storage', by, { spec: 'depth' }))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: `in${soundDepth}` }], true)
  }
  await drain(engine)
  await engine.nights.start('x', 2)
  await drain(engine)
  const verdictIn = async (id: string) => {
    const { id: made } = (await engine.handover.list()).find((f) => f.outletId === id)!
    const { proof } = (await engine.handover.one(made))!
    return proof.results.find((r) => r.rule.id === 'depth')!
  }
  expect(await verdictIn('in16')).toMatchObject({ verdict: 'pass' })
  const { verdict, why } = await verdictIn('in24')
  expect([verdict, why]).toEqual([
    'caution',
    'Sound depth used: 24 bit, of which only 16 carry anything: the lowest are always nought; required: all of them.',
  ])
})

it('sound of 24 bits is written into 16 with dither, or without where one says so; silence stays silent', async () => {
  const t = await reel('finer', (l) => l.fill(0.3 / 32768))
  const regions = [{ id: 'r', name: 'R', in: 0, out: 50, metadata: {} }]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  for (const [id, dither] of [
    ['with', true],
    ['without', false],
  ] as const) {
    await engine.outlets.save(outlet(id, 'storage', recipe('sound', { soundDepth: 16, dither, channels: [1, 2, 0] })))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: id }], true)
  }
  await drain(engine)
  await engine.nights.start('x', 2)
  await drain(engine)
  const channels = async (id: string) => {
    const { path: file } = (await engine.handover.list()).find((f) => f.outletId === id)!
    const opened = await openMediaFile(path.join(folder, 'storage', file), file)
    const sound = await opened.sound(null)!.read(0, 50 * frame)
    await opened.close()
    return sound.map((c) => Array.from(c, (v) => v * 32768))
  }
  const mean = (v: readonly number[]) => v.reduce((a, b) => a + b, 0) / v.length
  const [withDither, without] = [await channels('with'), await channels('without')]
  expect([new Set(without[0]), new Set(withDither[2]), new Set(without[2])]).toEqual([
    new Set([0]),
    new Set([0]),
    new Set([0]),
  ])
  expect(mean(withDither[0]!)).toBeCloseTo(0.3, 1.5)
  expect(Math.max(...withDither[1]!.map((v, n) => Math.abs(v - without[1]![n]!)))).toBeLessThanOrEqual(2)
  expect(withDither[1]!.some((v, n) => v !== without[1]![n])).toBe(true)
  await engine.timelines.remove(t.id)
})

it('goes with its pictures at another sample rate where a recipe says so, frame for frame', async () => {
  const t = await reel('rates', () => undefined)
  const regions = [{ id: 'r', name: 'R', in: 11, out: 50, metadata: {} }]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  const kinds = { master: 44100, viewing: 44100, sound: 96000 } as const
  for (const [kind, sampleRate] of Object.entries(kinds)) {
    const changes = { sampleRate, ...(kind === 'viewing' ? { width: null, height: null } : {}) }
    await engine.outlets.save(outlet(`rate-${kind}`, 'storage', recipe(kind, changes)))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: `rate-${kind}` }], true)
  }
  await drain(engine)
  await engine.nights.start('rates', 2)
  await drain(engine)
  for (const [kind, sampleRate] of Object.entries(kinds)) {
    const { path: file, verdict } = (await engine.handover.list()).find((f) => f.outletId === `rate-${kind}`)!
    const opened = await openMediaFile(path.join(folder, 'storage', file), file)
    const at = (n: number) => Math.round((n * sampleRate) / 25)
    expect([kind, verdict, opened.info.audio[0]!.sampleRate]).toEqual([kind, 'pass', sampleRate])
    const sound = opened.sound(machineCodecs())!
    expect(sound.samples).toBe(at(50) - at(11))
    const [l] = await sound.read(4000, 8000)
    const tone = (i: number) => 0.2 * Math.sin((2 * Math.PI * 440 * (at(11) + 4000 + i)) / sampleRate)
    expect(Math.max(...l!.map((v, i) => Math.abs(v - tone(i))))).toBeLessThan(kind === 'viewing' ? 0.02 : 1e-5)
    await opened.close()
  }
  await engine.timelines.remove(t.id)
})

it('data in the place of sound is none to measure; it comes out as it was, or is said to break', async () => {
  const tone = Float32Array.from({ length: 120 * frame }, (_, i) => 0.2 * Math.sin((2 * Math.PI * 440 * i) / 48000))
  const data = [new Float32Array(120 * frame), new Float32Array(120 * frame)]
  // bursts of 24 bits (SMPTE ST 337), one in each frame
  const word = (v: number) => (v >= 2 ** 23 ? v - 2 ** 24 : v) / 2 ** 23
  for (let at = 0; at < 120 * frame; at += frame)
    for (const [i, v] of [
      0x96f872,
      0xa54e1f,
      0x1c0000,
      0x0fffff,
      ...Array.from({ length: 900 }, (_, k) => k * 9001),
    ].entries())
      data[i % 2]![at + (i >> 1)] = word(v)
  await smallReel(path.join(folder, 'storage', 'coded.mov'), { channels: [tone, tone, ...data] })
  const t = await engine.timelines.bringIn({ root: 'storage', path: 'coded.mov' })
  const regions = [{ id: 'r', name: 'R', in: 10, out: 60, metadata: {} }]
  await engine.timelines.saveSplit(t.id, { regions, markers: [] }, 1)
  const ways = { as: {}, louder: { gain: 1 }, apart: { channels: [1, 3, 2, 4] }, alone: { channels: [3, 4] } }
  for (const [id, changes] of Object.entries(ways)) {
    const made = recipe('sound', { channels: [1, 2, 3, 4], ...changes })
    await engine.outlets.save(outlet(`coded-${id}`, 'storage', made, { spec: 'northmere' }))
    await engine.outlets.choose([{ timelineId: t.id, regionId: 'r', outletId: `coded-${id}` }], true)
  }
  await deliverables(engine)
  await drain(engine)
  const all = await deliverables(engine)
  const said = (id: string, rule: string) =>
    all.find((d) => d.outletId === `coded-${id}`)!.results.find((r) => r.rule.id === rule)
  expect(Object.keys(ways).map((id) => said(id, 'trap-coded')?.verdict)).toEqual(['pass', 'caution', 'caution', 'pass'])
  expect(said('as', 'loudness')!.forecast!.text).toMatch(/LUFS/)
  expect(said('alone', 'loudness')).toMatchObject({
    verdict: 'unmeasured',
    forecast: { value: null, text: 'channels 1 and 2 carry data, not sound (SMPTE ST 337)' },
  })
  await engine.outlets.save(outlet('coded-as', 'storage', recipe('sound', { channels: [1, 2, 3, 4] })))
  await drain(engine)
  await engine.nights.start('coded', 2, [`${t.id}/r/coded-as`])
  await drain(engine)
  const { path: file } = (await engine.handover.list()).find((f) => f.outletId === 'coded-as')!
  const opened = await openMediaFile(path.join(folder, 'storage', file), file)
  const written = await opened.sound(null)!.read(0, 50 * frame)
  await opened.close()
  expect(written.slice(2)).toEqual(data.map((c) => c.subarray(10 * frame, 60 * frame)))
  await engine.timelines.remove(t.id)
})

describe('faults', () => {
  let t: SplitTimeline
  it('are found over the whole, in frames', async () => {
    t = await reel('faults', (l, r) => {
      l[30 * frame + 700]! += 0.6
      r.fill(0, 55 * frame + 100, 55 * frame + 400)
      for (let i = 70 * frame; i < 100 * frame; i++) r[i] = -l[i]!
      l.fill(0, 104 * frame)
      r.fill(0, 104 * frame)
    })
    await drain(engine)
    const { faults, facts } = (await engine.viewing.analysis(t)).sound!
    // where the wave turns over or breaks off there is a click too
    expect([faults.clicks.map((c) => c.in), faults.dropouts, faults.silence]).toEqual([
      [30, 69, 99, 103],
      [{ in: 55, out: 56 }],
      [{ in: 104, out: 120 }],
    ])
    expect(faults.phase).toHaveLength(1)
    expect([Math.abs(faults.phase[0]!.in - 70) <= 3, Math.abs(faults.phase[0]!.out - 100) <= 3]).toEqual([true, true])
    expect(facts.peaks[0]!).toBeCloseTo(
      20 * Math.log10(Math.max(0.2, Math.abs(0.2 * Math.sin((2 * Math.PI * 440 * (30 * frame + 700)) / 48000) + 0.6))),
      1,
    )
  })
  it('of a region are its own, counted from its first frame', async () => {
    expect((await regionOf(t, { in: 20, out: 50 })).faults).toEqual({
      clicks: [{ in: 10, out: 11 }],
      dropouts: [],
      data: [],
      phase: [],
      silence: [],
    })
    expect((await regionOf(t, { in: 31, out: 55 })).faults).toEqual({
      clicks: [],
      dropouts: [],
      data: [],
      phase: [],
      silence: [],
    })
    // twenty frames out of phase are less than a second, ten of silence less than half of one
    const part = await regionOf(t, { in: 80, out: 114 })
    expect([part.faults.phase, part.faults.silence, part.faults.clicks.map((c) => c.in)]).toEqual([[], [], [19, 23]])
    expect((await regionOf(t, { in: 72, out: 99 })).faults.phase).toEqual([{ in: 0, out: 27 }])
  })
  it('are a caution of the specification that asks about them', async () => {
    await regionOf(t, { in: 20, out: 60 })
    const rule = (await deliverables(engine))
      .find((d) => d.timelineId === t.id)!
      .results.find((r) => r.rule.measure === 'sound-faults')!
    expect([rule.verdict, rule.source!.text]).toEqual(['caution', '1 click, 1 dropout, first at 10:01:00:05'])
    await regionOf(t, { in: 31, out: 54 })
    expect(
      (await deliverables(engine))
        .find((d) => d.timelineId === t.id)!
        .results.find((r) => r.rule.measure === 'sound-faults')!.verdict,
    ).toBe('pass')
  })
})

describe('sound that is short, or not there', () => {
  /** A list over the clean reel whose sound ends after some frames. */
  async function list(name: string, heard: number): Promise<SplitTimeline> {
    const rate = makeRate(25)
    const event = (track: string, to: number): TimelineEvent => ({
      track,
      kind: track === 'V' ? 'video' : 'audio',
      name: '',
      reel: 'clean',
      file: null,
      source: { in: start, out: start + to, rate },
      speed: normalSpeed,
      record: { in: 0, out: to },
      transition: null,
      ...(track === 'V' ? {} : { channels: [track === 'A1' ? 0 : 1] }),
    })
    const tracks = ['V', ...(heard ? ['A1', 'A2'] : [])]
    const timeline: Timeline = {
      name,
      rate,
      dropFrame: false,
      start: 0,
      length: 120,
      markers: [],
      tracks: tracks.map((t) => ({ name: t, kind: t === 'V' ? 'video' : 'audio' })),
      events: tracks.map((t) => event(t, t === 'V' ? 120 : heard)),
    }
    writeFileSync(path.join(folder, 'storage', `${name}.otio`), writeInterchange({ timeline }, 'otio').text)
    return engine.timelines.bringIn({ root: 'storage', path: `${name}.otio` })
  }
  let start: number
  beforeAll(async () => {
    const clean = await reel('clean', () => undefined)
    start = clean.model.start
    await engine.timelines.remove(clean.id)
  })
  it('is silent to the end of the pictures', async () => {
    const t = await list('short', 60)
    await drain(engine)
    const { sound } = await engine.viewing.analysis(t)
    expect([sound!.ribbon.length, sound!.faults.silence]).toEqual([48, [{ in: 60, out: 120 }]])
    const end = await regionOf(t, { in: 70, out: 120 })
    expect([end.integrated, end.truePeak, end.peaks, end.faults.silence]).toEqual([
      null,
      null,
      [null, null],
      [{ in: 0, out: 50 }],
    ])
    const across = await regionOf(t, { in: 40, out: 80 })
    expect(across.peaks[0]!).toBeCloseTo(20 * Math.log10(0.2), 1)
  })
  it('is nothing to measure, and keeps nobody waiting', async () => {
    const t = await list('mute', 0)
    await drain(engine)
    expect(await engine.viewing.analysis(t)).toMatchObject({ sound: null, progress: 1 })
    await regionOf(t, { in: 0, out: 50 })
    expect((await deliverables(engine)).find((d) => d.timelineId === t.id)!.pending).toBe(false)
  })
})

describe('a list that does not carry its rate', () => {
  const line = (reel: string, i: number) =>
    `${String(i + 1).padStart(3, '0')} ${reel} V C 00:00:00:00 00:00:01:00 01:00:0${i}:00 01:00:0${i + 1}:00`
  const edl = (reels: readonly string[]) => `TITLE: x\n${reels.map(line).join('\n')}\n`
  it('runs at the one most of its media runs at, at 25 when none does', async () => {
    const rate = makeRate(24000, 1001)
    for (const [name, own] of [
      ['SLOW_A', rate],
      ['SLOW_B', rate],
      ['PAL', makeRate(25)],
    ] as const)
      await smallReel(path.join(folder, 'storage', 'cards', `${name}.mov`), { rate: own, start: 0 })
    const bring = async (name: string, reels: readonly string[]) => {
      writeFileSync(path.join(folder, 'storage', `${name}.edl`), edl(reels))
      return engine.timelines.bringIn({ root: 'storage', path: `${name}.edl` })
    }
    expect((await bring('slow', ['SLOW_A', 'SLOW_B', 'PAL'])).model).toMatchObject({ rate, length: 72 })
    expect((await bring('pal', ['SLOW_A', 'PAL', 'PAL'])).model).toMatchObject({ rate: makeRate(25), length: 75 })
    expect((await bring('half', ['SLOW_A', 'PAL'])).model.rate).toEqual(makeRate(25))
    expect((await bring('none', ['NOBODY'])).model.rate).toEqual(makeRate(25))
  })
})

it('peaks and loudness that are coded move no further than was said before', async () => {
  await smallReel(path.join(folder, 'storage', 'sweeps.mov'), { rate: makeRate(30000, 1001), start: 0 })
  await engine.outlets.saveSpec({
    ...{ ...openSpec, id: 'peak', name: 'Peak' },
    rules: (['true-peak', 'loudness', 'momentary-loudness'] as const).map((measure) => ({
      ...{ id: measure, measure, severity: 'should', expect: { max: -9 }, clause: '1' },
    })),
  })
  const own = (results: readonly RuleResult[]) => results.filter((r) => r.rule.clause === '1')
  for (const soundBitrate of [64, 128, 192, 256]) {
    const by = recipe('viewing', { width: 160, height: 90, soundBitrate })
    const name = `at${soundBitrate}`
    const made = await deliver(engine, { name, file: 'sweeps.mov', range: { in: 7, out: 44 }, by, spec: 'peak' })
    const before = own((await deliverables(engine)).find((d) => d.outletId === name)!.results)
    const after = own((await engine.handover.one(made.id))!.proof.results)
    for (const [i, { rule, forecast, verdict }] of before.entries()) {
      const off = Math.abs((after[i]!.written!.value as number) - (forecast!.value as number))
      expect([rule.id, soundBitrate, off < forecast!.give!.by]).toEqual([rule.id, soundBitrate, true])
      // what has bits enough is certain
      if (rule.id === 'true-peak') expect(verdict).toBe(soundBitrate === 256 ? 'pass' : 'caution')
    }
  }
})

it('a viewing copy that begins and ends in the middle of a sound does so without a click', async () => {
  const file = path.join(folder, 'storage', 'tones.mov')
  await smallReel(file)
  const range = { in: 7, out: 44 }
  const { state, path: made } = await deliver(engine, { name: 'cut', file: 'tones.mov', range, by: recipe('viewing') })
  expect(state).toBe('done')
  const heard = async (full: string, from: number) => {
    const opened = await openMediaFile(full, full)
    const sound = await opened.sound(machineCodecs())!.read(from, 37 * frame)
    await opened.close()
    return sound[0]!
  }
  const [own, there] = [await heard(file, 7 * frame), await heard(path.join(folder, 'storage', made), 0)]
  // the largest difference of a twentieth of a second at both ends, against a tone of 0.25
  for (const at of [0, own.length - 2400]) {
    const apart = own.subarray(at, at + 2400).map((v, i) => Math.abs(v - there[at + i]!))
    expect(Math.max(...apart)).toBeLessThan(0.05)
  }
})
