import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { makeRate, type Rate } from '../time/rate'
import type { FrameRange } from '../time/range'
import { sampleAtFrame } from '../time/samples'
import { kWeighting } from './kweighting'
import { soundMeter } from './sound'
import { faultsWithin, soundFaults } from './soundfaults'
import { soundStretches } from './soundstretches'
import { soundReader, soundTraceLayout, SoundTracer, type SoundShape } from './soundtrace'

/** Sound that begins and ends nowhere: two tones that beat, a rumble, and noise that comes and goes. */
function signal(seed: number, samples: number): Float32Array {
  let state = seed * 2654435761 + 1
  const out = new Float32Array(samples)
  for (let i = 0; i < samples; i++) {
    state = (Math.imul(state, 1664525) + 1013904223) | 0
    out[i] =
      0.2 * Math.sin(i * (0.05 + seed * 0.011)) * Math.sin(i / 9000) +
      0.15 * Math.sin(i * 0.004 + seed) +
      (state / 2 ** 31) * 0.2 * Math.max(0, Math.sin(i / (30_000 + seed * 777)))
  }
  return out
}

function traces(
  shape: SoundShape,
  sound: readonly Float32Array[],
  range: FrameRange,
  regions: boolean,
  block: number,
): Float32Array[] {
  const tracer = new SoundTracer(shape, range.in, regions)
  const [from, to] = [
    sampleAtFrame(range.in, shape.rate, shape.sampleRate),
    sampleAtFrame(range.out, shape.rate, shape.sampleRate),
  ]
  const rows: Float32Array[] = []
  for (let at = from; at < to; at += block) {
    tracer.feed(sound.map((c) => c.subarray(at, Math.min(to, at + block))))
    rows.push(...tracer.rows())
  }
  tracer.finish()
  return [...rows, ...tracer.rows()]
}

function read(shape: SoundShape, rows: readonly Float32Array[], route: readonly number[]) {
  const reader = soundReader(shape, route, null)
  for (const r of rows) reader.feed(r)
  return { ...reader.result(), ribbon: reader.ribbon() }
}

const shapes: readonly [string, Rate][] = [
  ['24', makeRate(24)],
  ['25', makeRate(25)],
  ['29.97', makeRate(30000, 1001)],
  ['50', makeRate(50)],
  ['59.94', makeRate(60000, 1001)],
]

describe('a region read from the trace of the whole', () => {
  it.each(shapes)('is the region measured alone, at %s', (_, rate) => {
    const shape: SoundShape = { channels: 4, sampleRate: 48000, rate }
    const frames = Math.round((6 * rate.num) / rate.den)
    const sound = [1, 2, 3, 4].map((n) => signal(n, sampleAtFrame(frames, rate, 48000)))
    const whole = traces(shape, sound, { in: 0, out: frames }, true, 48_000)
    expect(whole).toHaveLength(frames)
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: frames - 1 }),
        fc.integer({ min: 1, max: frames }),
        fc.array(fc.integer({ min: -1, max: 3 }), { minLength: 1, maxLength: 4 }),
        fc.integer({ min: 500, max: 60_000 }),
        (first, length, route, block) => {
          const range = { in: first, out: Math.min(frames, first + length) }
          const alone = read(shape, traces(shape, sound, range, false, block), route)
          const kept = read(shape, whole.slice(range.in, range.out), route)
          expect(kept.ribbon).toEqual(alone.ribbon)
          expect(kept.peaks).toEqual(alone.peaks)
          expect(kept.truePeak).toBe(alone.truePeak)
          // sums are kept as 32-bit floats
          const close = (a: number | null, b: number | null) =>
            a === null || b === null ? expect(a).toBe(b) : expect(Math.abs(a - b)).toBeLessThan(1e-4)
          kept.pairs.forEach((pair, i) => close(pair.correlation, alone.pairs[i]!.correlation))
          for (const k of ['integrated', 'range', 'momentaryMax', 'shortTermMax'] as const) close(kept[k], alone[k])
        },
      ),
      { numRuns: 25 },
    )
  })

  it('is what BS.1770-5 says of those samples, block by block', () => {
    const shape: SoundShape = { channels: 2, sampleRate: 48000, rate: makeRate(25) }
    const sound = [signal(5, 480_000), signal(6, 480_000)]
    const whole = traces(shape, sound, { in: 0, out: 250 }, true, 10_007)
    for (const range of [
      { in: 0, out: 250 },
      { in: 37, out: 160 },
      { in: 101, out: 120 },
    ]) {
      const [shelf, pass] = kWeighting(48000)
      const weighted = sound.map((x) => {
        const part = Array.from(x.subarray(range.in * 1920, range.out * 1920))
        const filter = (list: number[], f: typeof shelf) => {
          const y: number[] = []
          list.forEach((v, n) =>
            y.push(
              f.b0 * v +
                f.b1 * (list[n - 1] ?? 0) +
                f.b2 * (list[n - 2] ?? 0) -
                f.a1 * (y[n - 1] ?? 0) -
                f.a2 * (y[n - 2] ?? 0),
            ),
          )
          return y
        }
        return filter(filter(part, shelf), pass)
      })
      const blocks: number[] = []
      for (let at = 0; at + 19_200 <= weighted[0]!.length; at += 4800)
        blocks.push(weighted.reduce((n, y) => n + y.slice(at, at + 19_200).reduce((a, v) => a + v * v, 0) / 19_200, 0))
      const loudness = (e: number) => -0.691 + 10 * Math.log10(e)
      const mean = (list: number[]) => list.reduce((a, v) => a + v, 0) / list.length
      const loud = blocks.filter((e) => loudness(e) > -70)
      const gated = loud.filter((e) => loudness(e) > loudness(mean(loud)) - 10)
      expect(read(shape, whole.slice(range.in, range.out), [0, 1]).integrated).toBeCloseTo(loudness(mean(gated)), 4)
    }
  })

  it('has a row of known size for every frame, whatever the block', () => {
    const shape: SoundShape = { channels: 1, sampleRate: 44_100, rate: makeRate(30000, 1001) }
    const sound = [signal(9, 44_100)]
    const rows = traces(shape, sound, { in: 0, out: 29 }, true, 44_100)
    expect(rows.map((r) => r.length)).toEqual(Array.from({ length: 29 }, () => soundTraceLayout(shape).length))
    expect(traces(shape, sound, { in: 0, out: 29 }, true, 101)).toEqual(rows)
  })
})

describe('parts with silence between them', () => {
  it('are read as a file of them is measured, whatever they lie between in the timeline', () => {
    const shape = { channels: 2, sampleRate: 48000, rate: makeRate(25) }
    const at = (n: number) => sampleAtFrame(n, shape.rate, shape.sampleRate)
    const sound = [signal(1, at(200)), signal(2, at(200))]
    // far too loud up to the very edges of what is left out
    for (const c of sound)
      for (const [a, b] of [
        [0, 20],
        [90, 120],
      ] as const)
        c.fill(0.98, at(a), at(b))
    const parts = [
      { in: 20, out: 90 },
      { in: 120, out: 190 },
    ]
    const rows = traces(shape, sound, { in: 0, out: 200 }, true, 10_000)
    const reader = soundReader(shape, [0, 1], null)
    for (const [i, p] of parts.entries()) {
      if (i > 0) reader.pause(50)
      for (const row of rows.slice(p.in, p.out)) reader.feed(row)
    }
    const meter = soundMeter(shape, null)
    for (const [i, p] of parts.entries()) {
      if (i > 0) meter.feed(sound.map(() => new Float32Array(at(50))))
      meter.feed(sound.map((c) => c.subarray(at(p.in), at(p.out))))
    }
    const [read, measured] = [reader.result(), meter.result()]
    for (const k of ['integrated', 'range', 'momentaryMax', 'shortTermMax'] as const)
      expect([k, read[k]]).toEqual([k, expect.closeTo(measured[k]!, k === 'range' ? 1 : 2)])
    expect(read.peaks).toEqual(measured.peaks)
    expect(read.truePeak!).toBeLessThan(-1)
    // what rings over into silence at the end of a part is not in its trace
    expect(Math.abs(read.truePeak! - measured.truePeak!)).toBeLessThan(0.1)
  })
})

describe('a short sound', () => {
  it('is measured as if silence followed', () => {
    const meter = soundMeter({ channels: 1, sampleRate: 48000, rate: makeRate(25) }, null)
    meter.feed([new Float32Array(700).fill(0.5)])
    const r = meter.result()
    expect(r.integrated).toBeNull()
    expect(r.peaks[0]).toBeCloseTo(-6.02, 2)
    expect(r.truePeak!).toBeGreaterThan(-6.02)
  })
  it('that never came is silence', () =>
    expect(soundMeter({ channels: 2, sampleRate: 48000, rate: makeRate(25) }, null).result()).toMatchObject({
      integrated: null,
      truePeak: null,
      peaks: [null, null],
      pairs: [{ channels: [0, 1], correlation: null }],
    }))
})

describe('two channels', () => {
  const sine = (f: number, a: number) =>
    Float32Array.from({ length: 4800 }, (_, i) => a * Math.sin((2 * Math.PI * f * i) / 48000))
  const facts = (...c: Float32Array[]) => {
    const m = soundMeter({ channels: c.length, sampleRate: 48000, rate: makeRate(25) }, null)
    m.feed(c)
    return m.result()
  }
  const correlation = (...c: Float32Array[]) => facts(...c).pairs[0]!.correlation
  it('are told in phase or out of phase', () => {
    const s = sine(500, 0.5)
    expect(correlation(s, s)).toBeCloseTo(1, 5)
    const turned = s.map((v) => -v)
    expect(correlation(s, turned)).toBeCloseTo(-1, 5)
    expect(Math.abs(correlation(s, sine(700, 0.5))!)).toBeLessThan(0.05)
  })
  it('have no correlation when one is silent', () => {
    const r = facts(sine(500, 0.5), new Float32Array(4800))
    expect(r.pairs[0]!.correlation).toBeNull()
    expect(r.peaks[1]).toBeNull()
  })
})

describe('sound faults', () => {
  const rate48 = 48000
  const shape: SoundShape = { channels: 2, sampleRate: rate48, rate: makeRate(25) }
  const tone = (seconds: number, f = 440, a = 0.3) =>
    Float32Array.from({ length: seconds * rate48 }, (_, i) => a * Math.sin((2 * Math.PI * f * i) / rate48))
  const damage = (channels: Float32Array[], block = 4800) => {
    const m = soundFaults(channels.length, rate48)
    for (let at = 0; at < channels[0]!.length; at += block) m.feed(channels.map((c) => c.subarray(at, at + block)))
    return faultsWithin(m.result(), { in: 0, out: channels[0]!.length })
  }
  const stretches = (
    channels: Float32Array[],
    route: readonly number[] = [...channels.keys()],
    layout: string | null = null,
  ) => {
    const own = { ...shape, channels: channels.length }
    const m = soundStretches(own, route, layout)
    for (const row of traces(own, channels, { in: 0, out: channels[0]!.length / 1920 }, false, 4800)) m.feed(row)
    return m.result()
  }
  function faulty(): [Float32Array, Float32Array] {
    const l = tone(8)
    const r = Float32Array.from(l)
    l[30_000] = l[30_000]! + 0.5
    r[20_000] = r[20_000]! - 0.5
    r.fill(0, 60_010, 60_200)
    for (let i = 96_000; i < 168_000; i++) r[i] = -l[i]!
    l.fill(0, 240_000, 288_000)
    r.fill(0, 240_000, 288_000)
    return [l, r]
  }
  it('are none in clean sound', () => {
    expect(damage([tone(3), tone(3)])).toEqual({ clicks: [], dropouts: [], data: [] })
    expect(stretches([tone(3), tone(3)])).toEqual({ silence: [], phase: [] })
  })
  it.each([1000, 4800, 48000])('clicks of either channel and dropouts are found, in blocks of %d', (block) => {
    const f = damage(faulty(), block)
    expect(f.clicks).toHaveLength(2)
    expect(Math.abs(f.clicks[0]!.in - 20_000)).toBeLessThan(4)
    expect(Math.abs(f.clicks[1]!.in - 30_000)).toBeLessThan(4)
    expect(f.dropouts).toEqual([{ in: 60_010, out: 60_200 }])
  })
  it('silence and phase are those of the channels that are heard, in their order', () => {
    const [l, r] = faulty()
    const own = stretches([l, r])
    const four = [tone(8), l, r, new Float32Array(l.length)]
    expect(stretches(four)).toEqual({ silence: [], phase: [] })
    expect(stretches(four, [1, 2])).toEqual(own)
    // any pair, each two of four where nothing says what they are
    expect(stretches([tone(8), tone(8), l, r]).phase).toEqual(own.phase)
    const sides = [tone(8), tone(8), tone(8), tone(8), l, r]
    expect(stretches(sides, undefined, 'L R C LFE Ls Rs').phase).toEqual([])
    expect(stretches(four, [2, 1])).toEqual(own)
    expect(stretches(four, [1, -1, 2])).toEqual({ silence: own.silence, phase: [] })
    expect(stretches(four, [1, 2, 0])).toEqual({ silence: [], phase: own.phase })
    // left and right where they are said to be
    expect(stretches(four, [1, 0, 2], 'L C R').phase).toEqual(own.phase)
  })
  it('silence and phase are found to the frame, phase once a tenth of a second of it has passed', () => {
    const s = stretches(faulty())
    expect(s.silence).toEqual([{ in: 125, out: 150 }])
    expect(s.phase).toHaveLength(1)
    expect(s.phase[0]!.in - 50).toBeLessThanOrEqual(3)
    expect(s.phase[0]!.out - 87.5).toBeLessThanOrEqual(3)
  })
  it('of a part are those the part alone has', () => {
    const whole = faulty()
    const m = soundFaults(2, rate48)
    m.feed(whole)
    for (const [from, to] of [
      [0, 384_000],
      [19_990, 30_100],
      [19_900, 60_100],
      [28_800, 96_000],
      [60_300, 90_000],
    ] as const) {
      expect(faultsWithin(m.result(), { in: from, out: to })).toEqual(damage(whole.map((c) => c.slice(from, to))))
    }
  })
})

describe('sound that ends within a frame of its trace', () => {
  it('counts for loudness as far as its slots are whole, and for peaks to its last sample', () => {
    const shape: SoundShape = { channels: 1, sampleRate: 48000, rate: makeRate(25) }
    // two seconds and 7.9 ms of a tone, the last sample a click
    const tone = Float32Array.from({ length: 96_379 }, (_, i) => 0.1 * Math.sin(i / 7))
    const clicked = Float32Array.from(tone)
    clicked[clicked.length - 1] = 0.9
    const read = (x: Float32Array) => {
      const meter = soundMeter(shape, null)
      meter.feed([x])
      return meter.result()
    }
    const whole = read(tone.subarray(0, 96_000))
    expect(read(tone).integrated).toBe(whole.integrated)
    expect(read(clicked).integrated).toBe(whole.integrated)
    expect(read(clicked).peaks[0]).toBeCloseTo(20 * Math.log10(0.9), 3)
  })
})
