import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { lastAtOrBefore, lastWhere } from './order'
import { uncovered } from './range'
import { framesToSeconds, makeRate, nearestRate, otherRate, parseRate, rateLabel, rateText, rates } from './rate'
import { frameAtSample, mulDivRound, sampleAtFrame } from './samples'
import { canDropFrame, formatTimecode, framesPerDay, parseTimecode, parseTyped, type TimeBase } from './timecode'

const ntsc = { rate: makeRate(30000, 1001), dropFrame: true }
const ntsc60 = { rate: makeRate(60000, 1001), dropFrame: true }
const pal = { rate: makeRate(25), dropFrame: false }

describe('places in what lies in order', () => {
  it('are the last at or before', () => {
    expect([-1, 0, 9, 10, 39, 40, 99].map((at) => lastAtOrBefore([0, 10, 40], at))).toEqual([-1, 0, 0, 1, 1, 2, 2])
    expect(lastAtOrBefore([], 5)).toBe(-1)
  })
  it('are found as by looking at each', () =>
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 50 })), fc.integer({ min: -5, max: 55 }), (list, at) => {
        const sorted = list.sort((a, b) => a - b)
        expect(lastWhere(sorted.length, (i) => sorted[i]! <= at)).toBe(sorted.findLastIndex((x) => x <= at))
      }),
    ))
})

describe('drop-frame labels (ST 12-1)', () => {
  it.each([
    [1799, '00:00:59;29'],
    [1800, '00:01:00;02'],
    [17981, '00:09:59;29'],
    [17982, '00:10:00;00'],
    [107892, '01:00:00;00'],
  ])('%i is %s', (frames, label) => {
    expect(formatTimecode(frames, ntsc)).toBe(label)
    expect(parseTimecode(label, ntsc)).toBe(frames)
  })
  it('skips four labels a minute at 60000/1001', () => {
    expect(formatTimecode(3600, ntsc60)).toBe('00:01:00;04')
    expect(formatTimecode(35964, ntsc60)).toBe('00:10:00;00')
  })
  it('refuses labels that do not exist', () => {
    expect(parseTimecode('00:01:00;00', ntsc)).toBeNull()
    expect(parseTimecode('00:01:00;01', ntsc)).toBeNull()
    expect(parseTimecode('00:10:00;00', ntsc)).toBe(17982)
    expect(parseTimecode('24:00:00:00', pal)).toBeNull()
    expect(parseTimecode('00:00:00:25', pal)).toBeNull()
  })
  it('wraps at 24 hours', () => {
    expect(framesPerDay(ntsc)).toBe(2589408)
    expect(formatTimecode(framesPerDay(ntsc), ntsc)).toBe('00:00:00;00')
    expect(formatTimecode(-1, pal)).toBe('23:59:59:24')
  })
  it('goes there and back at every rate', () => {
    fc.assert(
      fc.property(fc.constantFrom(...rates), fc.boolean(), fc.nat(2_000_000), (rate, wish, n) => {
        const base = { rate, dropFrame: wish && canDropFrame(rate) }
        const frames = n % framesPerDay(base)
        expect(parseTimecode(formatTimecode(frames, base), base)).toBe(frames)
      }),
    )
  })
})

describe('what people type', () => {
  it.each([
    ['10:00:12:05', 900305],
    ['1205', 305],
    ['+2s', 150],
    ['-12', 88],
    ['+1:10', 135],
    ['5', 5],
  ])('%s', (text, frames) => expect(parseTyped(text, 100, pal)).toBe(frames))
  it('gives null for what it cannot read', () => {
    for (const bad of ['', 'abc', '10:00', '1:2:3:99', '--2']) expect(parseTyped(bad, 0, pal)).toBeNull()
  })
})

describe('sound positions', () => {
  it('are no frames: the compiler refuses one for the other', () => {
    const samples = sampleAtFrame(25, makeRate(25), 48000)
    // @ts-expect-error samples are no frames
    expect(framesToSeconds(samples, makeRate(25))).toBe(1920)
    // @ts-expect-error seconds are no frames
    expect(framesToSeconds(framesToSeconds(25, makeRate(25)), makeRate(25))).toBe(1 / 25)
    // @ts-expect-error frames are no samples
    expect(frameAtSample(frameAtSample(samples, makeRate(25), 48000), makeRate(25), 48000)).toBe(0)
  })
  it('repeats 1602 1601 1602 1601 1602 at 30000/1001', () => {
    const at = [0, 1, 2, 3, 4, 5].map((n) => sampleAtFrame(n, ntsc.rate, 48000))
    expect(at.slice(1).map((v, i) => v - at[i]!)).toEqual([1602, 1601, 1602, 1601, 1602])
  })
  it('frameAtSample undoes sampleAtFrame', () => {
    fc.assert(
      fc.property(fc.constantFrom(...rates), fc.nat(5_000_000), (rate, n) => {
        const s = sampleAtFrame(n, rate, 48000)
        expect(frameAtSample(s, rate, 48000)).toBe(n)
        expect(frameAtSample(s + 1, rate, 48000)).toBe(n)
      }),
    )
  })
  it('stays exact beyond 2^53', () => expect(mulDivRound(9_000_000_000, 48_048_000, 30_000)).toBe(14_414_400_000_000))
})

describe('rates', () => {
  it('reads fractions and display forms', () => {
    expect(parseRate('23.976')).toEqual({ num: 24000, den: 1001 })
    expect(parseRate('23.98')).toEqual({ num: 24000, den: 1001 })
    expect(parseRate('29.97')).toEqual({ num: 30000, den: 1001 })
    expect(parseRate('50/2')).toEqual({ num: 25, den: 1 })
    expect(parseRate('0')).toBeNull()
    expect(nearestRate(26.5)).toBeNull()
  })
  it('shows them', () =>
    expect(rates.map((r) => `${rateText(r)} ${rateLabel(r)}`).slice(0, 4)).toEqual([
      '24000/1001 23.976',
      '24/1 24',
      '25/1 25',
      '30000/1001 29.97',
    ]))
})

describe('ranges', () => {
  it('finds what nothing covers', () => {
    expect(
      uncovered({ in: 0, out: 100 }, [
        { in: 50, out: 60 },
        { in: 10, out: 20 },
        { in: 15, out: 30 },
      ]),
    ).toEqual([
      { in: 0, out: 10 },
      { in: 30, out: 50 },
      { in: 60, out: 100 },
    ])
    expect(uncovered({ in: 0, out: 10 }, [{ in: -5, out: 50 }])).toEqual([])
  })
})

describe('the rate that times come to', () => {
  const frames = fc.integer({ min: 2, max: 200_000 })
  it('is the standard one where they are rounded to their ticks (property)', () => {
    fc.assert(
      fc.property(fc.constantFrom(...rates), frames, fc.constantFrom(600, 1000, 90_000), (rate, n, second) => {
        const length = Math.round((n * second * rate.den) / rate.num)
        expect(otherRate(rate, n, { length, second, step: 1 })).toBeNull()
      }),
    )
  })
  it('is its own where they are off by more than that (property)', () => {
    fc.assert(
      fc.property(fc.constantFrom(...rates), frames, fc.integer({ min: 5, max: 200 }), (rate, n, parts) => {
        // so many millionths slower, in ticks that are fine enough to tell
        const own = { length: n * rate.den * (1_000_000 + parts), second: rate.num * 1_000_000, step: 1 }
        const other = otherRate(rate, n, own)!
        expect(other.num / other.den / (rate.num / rate.den)).toBeCloseTo(1 / (1 + parts / 1e6), 12)
      }),
    )
  })
  it('is not told by nothing', () => expect(otherRate(makeRate(25), 0, { length: 0, second: 1, step: 1 })).toBeNull())
})

describe('labels of sound alone', () => {
  const cd: TimeBase = { rate: makeRate(44100), dropFrame: false }
  it('count samples, in as many digits as they need', () => {
    expect(formatTimecode(44100 * 62 + 7, cd)).toBe('00:01:02:00007')
    expect(formatTimecode(44100 * 86400 + 1, cd)).toBe('00:00:00:00001')
  })
  it('are read whole, as a time of day, and with decimals of a second to the nearest sample', () => {
    expect(parseTimecode('00:01:02:00007', cd)).toBe(44100 * 62 + 7)
    expect(parseTimecode('00:01:02', cd)).toBe(44100 * 62)
    expect(parseTimecode('00:01:02.5', cd)).toBe(44100 * 62.5)
    expect(parseTimecode('0:00:00,00001', cd)).toBe(0)
    expect(parseTimecode('0:00:00,00002', cd)).toBe(1)
    expect(parseTimecode('00:00:00:44100', cd)).toBeNull()
    expect(parseTimecode('00:00:61.5', cd)).toBeNull()
  })
  it('go there and back', () => {
    fc.assert(
      fc.property(fc.constantFrom(8000, 44100, 48000, 96000, 192000), fc.nat(86399), fc.nat(7999), (sr, s, n) => {
        const base = { rate: makeRate(sr), dropFrame: false }
        expect(parseTimecode(formatTimecode(s * sr + n, base), base)).toBe(s * sr + n)
      }),
    )
  })
  it('are typed as hours, minutes and seconds', () => {
    expect(parseTyped('1205', 0, cd)).toBe(44100 * 725)
    expect(parseTyped('12.5', 0, cd)).toBe(44100 * 12.5)
    expect(parseTyped('+2s', 5, cd)).toBe(5 + 88200)
    expect(parseTyped('-3', 5, cd)).toBe(2)
    expect(parseTyped('00:00:01:00010', 0, cd)).toBe(44110)
  })
})
