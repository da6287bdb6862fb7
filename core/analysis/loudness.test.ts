import { describe, expect, it } from 'vitest'
import { layoutOf } from '../sound/layout'
import { makeRate, rates, type Rate } from '../time/rate'
import { kWeighting } from './kweighting'
import { slotsOf } from './loudness'
import { channelGains, mixesOf } from './mixes'
import { soundMeter } from './sound'

/** A stretch of a test signal: seconds, and dBFS peak level of a 1 kHz sine for each channel. */
type Stretch = readonly [seconds: number, level: number | readonly number[]]

function measure(stretches: readonly Stretch[], channels = 2, rate = 48000, pictures: Rate = makeRate(25)) {
  const meter = soundMeter({ channels, sampleRate: rate, rate: pictures }, layoutOf(channels))
  let phase = 0
  for (const [seconds, level] of stretches) {
    let left = Math.round(seconds * rate)
    while (left > 0) {
      const n = Math.min(left, 10007)
      const block = Array.from({ length: channels }, (_, c) => {
        const amplitude = 10 ** ((typeof level === 'number' ? level : level[c]!) / 20)
        const tone = new Float32Array(n)
        for (let i = 0; i < n; i++) tone[i] = amplitude * Math.sin((2 * Math.PI * 1000 * (phase + i)) / rate)
        return tone
      })
      phase += n
      left -= n
      meter.feed(block)
    }
  }
  return meter.result()
}

describe('EBU Tech 3341 minimum requirements', () => {
  it.each([
    [1, [[20, -23]], -23],
    [2, [[20, -33]], -33],
    [
      3,
      [
        [10, -36],
        [60, -23],
        [10, -36],
      ],
      -23,
    ],
    [
      4,
      [
        [10, -72],
        [10, -36],
        [60, -23],
        [10, -36],
        [10, -72],
      ],
      -23,
    ],
    [
      5,
      [
        [20, -26],
        [20.1, -20],
        [20, -26],
      ],
      -23,
    ],
  ] as [number, Stretch[], number][])('case %i: integrated', (_, stretches, lufs) => {
    expect(Math.abs(measure(stretches).integrated! - lufs)).toBeLessThanOrEqual(0.1)
  })
  it.each([rates[0]!, rates[1]!, rates[3]!, rates[5]!, rates[7]!, rates[11]!].map((r) => [r]))(
    'cases 3, 10 and 13 with pictures of %o',
    (pictures) => {
      expect(
        Math.abs(
          measure(
            [
              [10, -36],
              [60, -23],
              [10, -36],
            ],
            2,
            48000,
            pictures,
          ).integrated! + 23,
        ),
      ).toBeLessThanOrEqual(0.1)
      for (let n = 0; n < 20; n += 6) {
        expect(
          Math.abs(
            measure(
              [
                [0.15 * n, -200],
                [3, -23],
                [1, -200],
              ],
              2,
              48000,
              pictures,
            ).shortTermMax! + 23,
          ),
        ).toBeLessThanOrEqual(0.1)
        expect(
          Math.abs(
            measure(
              [
                [0.02 * n, -200],
                [0.4, -23],
                [1, -200],
              ],
              2,
              48000,
              pictures,
            ).momentaryMax! + 23,
          ),
        ).toBeLessThanOrEqual(0.1)
      }
    },
  )
  it('case 1 also at 44.1 and 96 kHz', () => {
    for (const rate of [44100, 96000])
      expect(Math.abs(measure([[20, -23]], 2, rate).integrated! + 23)).toBeLessThanOrEqual(0.1)
  })
  it.each([32_000, 44_100, 88_200, 96_000, 192_000])('frequencies are weighed at %i Hz as at 48 kHz', (rate) => {
    const decibels = (sampleRate: number, hertz: number) =>
      kWeighting(sampleRate).reduce((sum, { b0, b1, b2, a1, a2 }) => {
        const w = (2 * Math.PI * hertz) / sampleRate
        const gain = (x: number, y: number, z: number) =>
          Math.hypot(x + y * Math.cos(w) + z * Math.cos(2 * w), y * Math.sin(w) + z * Math.sin(2 * w))
        return sum + 20 * Math.log10(gain(b0, b1, b2) / gain(1, a1, a2))
      }, 0)
    for (const hertz of [20, 50, 100, 500, 997, 2000, 4000, 8000, 15_000])
      expect(Math.abs(decibels(rate, hertz) - decibels(48_000, hertz))).toBeLessThan(0.008)
  })
  it('case 1: momentary and short-term', () => {
    const r = measure([[20, -23]])
    expect(Math.abs(r.momentaryMax! + 23)).toBeLessThanOrEqual(0.1)
    expect(Math.abs(r.shortTermMax! + 23)).toBeLessThanOrEqual(0.1)
  })
  it('case 6: five channels, and the LFE of 5.1 counts for nothing', () => {
    expect(Math.abs(measure([[20, [-28, -28, -24, -30, -30]]], 5).integrated! + 23)).toBeLessThanOrEqual(0.1)
    expect(Math.abs(measure([[20, [-28, -28, -24, -6, -30, -30]]], 6).integrated! + 23)).toBeLessThanOrEqual(0.1)
  })
  it.each([
    ['film’s order', 'L C R Ls Rs LFE', [1, 1, 1, 1.41, 1.41, 0]],
    ['the first of several mixes', 'L R L R L R', [1, 1, 0, 0, 0, 0]],
    ['a surround and its downmix', 'L R C LFE Ls Rs Lt Rt', [1, 1, 1, 0, 1.41, 1.41, 0, 0]],
    ['those behind as well', 'L R C LFE Ls Rs Rls Rrs', [1, 1, 1, 0, 1.41, 1.41, 1, 1]],
    ['what is not named behind what is', 'L R ? ?', [1, 1, 0, 0]],
    ['what is not named in front, as a pair', '? ? L R', [1, 1, 0, 0]],
    ['and as a surround', '? ? ? ? ? ? L R', [1, 1, 1, 0, 1.41, 1.41, 0, 0]],
    ['silence in the place of one', 'L R C ? Ls Rs', [1, 1, 1, 0, 1.41, 1.41]],
    ['none of them named', '? ? ?', [1, 1, 1]],
    ['nothing said of six', null, [1, 1, 1, 0, 1.41, 1.41]],
    ['nothing said of eight', null, [1, 1, 0, 0, 0, 0, 0, 0]],
    ['nothing said of three', null, [1, 1, 1]],
  ])('weighs channels by what they are: %s', (_, layout, gains) =>
    expect(channelGains(gains.length, layout)).toEqual(gains),
  )
  it.each([
    [
      'pairs',
      'L R L R L R',
      {
        programme: [0, 1],
        others: [
          [2, 3],
          [4, 5],
        ],
        untold: [],
      },
    ],
    [
      'a surround and its downmix',
      'L R C LFE Ls Rs Lt Rt',
      { programme: [0, 1, 2, 3, 4, 5], others: [[6, 7]], untold: [] },
    ],
    ['what is not named behind what is', 'L R ? ?', { programme: [0, 1], others: [], untold: [2, 3] }],
    ['what is not named in front', '? ? ? ? ? ? L R', { programme: [0, 1, 2, 3, 4, 5], others: [[6, 7]], untold: [] }],
    ['nothing said of four', null, { programme: [0, 1], others: [], untold: [2, 3] }],
  ])('tells mixes apart: %s', (_, layout, mixes) =>
    expect(mixesOf(layout?.split(' ').length ?? 4, layout)).toEqual(mixes),
  )
  it('measures each mix by itself, and each pair', () => {
    const m = soundMeter({ channels: 4, sampleRate: 48000, rate: makeRate(25) }, 'L R L R')
    const wave = (level: number) =>
      Float32Array.from({ length: 96000 }, (_, i) => 10 ** (level / 20) * Math.sin((2 * Math.PI * 1000 * i) / 48000))
    m.feed([wave(-23), wave(-23), wave(-30), wave(-30).map((v) => -v)])
    const { integrated, programme, others, pairs } = m.result()
    expect([integrated, others[0]!.integrated]).toEqual([-23, -30].map((v) => expect.closeTo(v, 1) as number))
    expect([programme, others[0]!.channels]).toEqual([
      [0, 1],
      [2, 3],
    ])
    expect(pairs.map((p) => p.correlation)).toEqual([1, -1].map((v) => expect.closeTo(v, 4) as number))
    expect(m.trouble().phase).toEqual([{ in: 0, out: 50 }])
  })
  it('has no figure of what is shorter than a block of 0.4 s, and one of what is as long', () => {
    const of = (samples: number) => {
      const m = soundMeter({ channels: 1, sampleRate: 48000, rate: makeRate(25) }, null)
      m.feed([Float32Array.from({ length: samples }, (_, i) => 0.3 * Math.sin(i / 9))])
      return m.result()
    }
    expect(of(19_199)).toMatchObject({ integrated: null, momentaryMax: null })
    expect(of(19_200).integrated).toBeCloseTo(of(19_200).momentaryMax!, 9)
  })
  it('has no range of what is silent, or under the gate, for as long as it lasts', () => {
    const range = (level: number) => {
      const m = soundMeter({ channels: 1, sampleRate: 48000, rate: makeRate(25) }, null)
      m.feed([Float32Array.from({ length: 240_000 }, (_, i) => level * Math.sin(i / 9))])
      return m.result().range
    }
    expect([range(0), range(1e-4), range(0.1)]).toEqual([null, null, expect.closeTo(0, 1) as number])
  })
  it('case 9: short-term holds still', () => {
    const s: Stretch[] = Array.from(
      { length: 5 },
      () =>
        [
          [1.34, -20],
          [1.66, -30],
        ] as Stretch[],
    ).flat()
    expect(Math.abs(measure(s).shortTermMax! + 23)).toBeLessThanOrEqual(0.1)
  })
  it('case 10: largest short-term of three-second tones at any position', () => {
    for (let n = 0; n < 20; n++)
      expect(
        Math.abs(
          measure([
            [0.15 * n, -200],
            [3, -23],
            [1, -200],
          ]).shortTermMax! + 23,
        ),
      ).toBeLessThanOrEqual(0.1)
  })
  it('case 12: momentary holds still', () => {
    const s: Stretch[] = Array.from(
      { length: 25 },
      () =>
        [
          [0.18, -20],
          [0.22, -30],
        ] as Stretch[],
    ).flat()
    expect(Math.abs(measure(s).momentaryMax! + 23)).toBeLessThanOrEqual(0.1)
  })
  it('case 13: largest momentary of 400 ms tones at any position', () => {
    for (let n = 0; n < 20; n++)
      expect(
        Math.abs(
          measure([
            [0.02 * n, -200],
            [0.4, -23],
            [1, -200],
          ]).momentaryMax! + 23,
        ),
      ).toBeLessThanOrEqual(0.1)
  })
  it('a mono tone is 3 dB under the same tone on two channels', () => {
    expect(Math.abs(measure([[20, -23]], 1).integrated! + 26)).toBeLessThanOrEqual(0.1)
  })
})

describe('EBU Tech 3342 loudness range', () => {
  it.each([
    [
      1,
      [
        [20, -20],
        [20, -30],
      ],
      10,
    ],
    [
      2,
      [
        [20, -20],
        [20, -15],
      ],
      5,
    ],
    [
      3,
      [
        [20, -40],
        [20, -20],
      ],
      20,
    ],
    [
      4,
      [
        [20, -50],
        [20, -35],
        [20, -20],
        [20, -35],
        [20, -50],
      ],
      15,
    ],
  ] as [number, Stretch[], number][])('case %i', (_, stretches, lu) => {
    expect(Math.abs(measure(stretches).range! - lu)).toBeLessThanOrEqual(1)
  })
})

describe('slots', () => {
  it.each(rates.map((r) => [r]))('are whole in a frame and in a tenth of a second, at %o', (rate) => {
    const slots = slotsOf(rate)
    const inFrame = (slots.num * rate.den) / (slots.den * rate.num)
    const inTenth = slots.num / slots.den / 10
    expect(Number.isInteger(inFrame)).toBe(true)
    expect(Math.abs(inTenth - Math.round(inTenth)) / inTenth).toBeLessThan(0.0011)
    expect(slots.num / slots.den).toBeGreaterThan(99.8)
  })
})

describe('EBU Tech 3341 true peak', () => {
  const peak = (x: Float32Array, block: number) => {
    const meter = soundMeter({ channels: 1, sampleRate: 48000, rate: makeRate(25) }, null)
    for (let at = 0; at < x.length; at += block) meter.feed([x.subarray(at, at + block)])
    return meter.result().truePeak!
  }
  // faded at both ends, as the test signals are, so that the onset is not the peak
  const tone = (divisor: number, amplitude: number, degrees: number) =>
    Float32Array.from(
      { length: 4800 },
      (_, i) =>
        amplitude *
        Math.min(1, i / 480, (4799 - i) / 480) *
        Math.sin((2 * Math.PI * i) / divisor + (degrees * Math.PI) / 180),
    )
  it.each([
    [15, 4, 0.5, 0, -6],
    [16, 4, 0.5, 45, -6],
    [17, 6, 0.5, 60, -6],
    [18, 8, 0.5, 67.5, -6],
    [19, 4, 1.41, 45, 3],
  ])('case %i', (_, divisor, amplitude, degrees, dbtp) => {
    const got = peak(tone(divisor, amplitude, degrees), 4800) - dbtp
    expect(got).toBeLessThanOrEqual(0.2)
    expect(got).toBeGreaterThanOrEqual(-0.4)
  })
  it('gives the same however the sound is sliced', () => {
    const x = Float32Array.from({ length: 5000 }, (_, i) => 0.7 * Math.sin(i * 1.57 + 0.8) * Math.sin(i / 300))
    expect(peak(x, 37)).toBe(peak(x, 5000))
  })
})

describe('K-weighting', () => {
  it('is the table of BS.1770-5 at 48 kHz', () => {
    const [shelf, highPass] = kWeighting(48000)
    expect(shelf.b0).toBeCloseTo(1.53512485958697, 9)
    expect(shelf.a1).toBeCloseTo(-1.69065929318241, 9)
    expect(shelf.b2).toBeCloseTo(1.19839281085285, 9)
    expect(highPass.a1).toBeCloseTo(-1.99004745483398, 9)
    expect(highPass.a2).toBeCloseTo(0.99007225036621, 9)
  })
})
