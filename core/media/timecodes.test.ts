import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { makeRate } from '../time/rate'
import { formatTimecode, labelParts, timecodeToFrames } from '../time/timecode'
import { packetTimecode, timecodeBase, timecodeMeter, type Labelled } from './timecodes'

const rate = makeRate(25)
const base = { rate, dropFrame: false, start: 900_000 }
const label = (n: number) => formatTimecode(base.start + n, base)
const follow = (list: readonly Labelled[], own = base, binary = false, of = own.rate) => {
  const meter = timecodeMeter('here', timecodeBase(of, own, binary))
  list.forEach((l) => meter.feed(l))
  return meter.result()
}
const frames = (from: number, to: number, of = label): Labelled[] =>
  Array.from({ length: to - from }, (_, i) => ({ frame: from + i, label: of(from + i) }))

describe('a timecode that goes through a file', () => {
  it('follows from frame to frame, and where only some frames have one', () => {
    const none = { where: 'here', breaks: 0, at: null, other: null }
    expect(follow(frames(0, 50))).toEqual({ ...none, frames: 50 })
    expect(follow(frames(0, 50).filter(({ frame }) => frame % 12 === 0))).toEqual({ ...none, frames: 5 })
  })
  it('breaks where a label is left out, comes twice, or is none', () => {
    expect(follow([...frames(0, 10), ...frames(10, 20, (n) => label(n + 1))])).toMatchObject({ breaks: 1, at: 10 })
    expect(follow([...frames(0, 10), ...frames(10, 20, (n) => label(n - 1))])).toMatchObject({ breaks: 1, at: 10 })
    for (const bad of [null, '10:00:61:00', '45:00:00:00'])
      expect(follow(frames(0, 9).map((l) => (l.frame === 4 ? { ...l, label: bad } : l)))).toMatchObject({
        ...{ breaks: 1, at: 4 },
      })
  })
  it('may be another than the file’s, which is no break and is said', () => {
    const other = (n: number) => formatTimecode(n, base)
    expect(follow(frames(0, 9, other))).toMatchObject({ breaks: 0, other: '00:00:00:00' })
  })
  it('follows over midnight, and breaks there as elsewhere', () => {
    const late = { ...base, start: 86_400 * 25 - 10 }
    const over = (by: number) => (n: number) => formatTimecode(late.start + n + (n < 10 ? 0 : by), late)
    expect(follow(frames(0, 20, over(0)), late)).toMatchObject({ breaks: 0, other: null })
    expect(follow(frames(0, 20, over(1)), late)).toMatchObject({ breaks: 1, at: 10 })
    // of a file that goes on from the day before
    expect(
      follow(
        frames(0, 20, (n) => formatTimecode(n, base)),
        { ...base, start: 86_400 * 25 },
      ),
    ).toMatchObject({
      ...{ breaks: 0, other: null },
    })
  })
  it('follows over labels that are dropped', () => {
    const ntsc = {
      rate: makeRate(30000, 1001),
      dropFrame: true,
      start: timecodeToFrames(10, 0, 59, 20, {
        ...{ rate: makeRate(30000, 1001), dropFrame: true },
      })!,
    }
    // written with colons throughout, as binary groups have them
    const plain = (n: number) => formatTimecode(ntsc.start + n, ntsc).replace(';', ':')
    expect(follow(frames(0, 40, plain), ntsc)).toMatchObject({ breaks: 0, other: null })
    const kept = (n: number) => formatTimecode(n + 18_000, { rate: makeRate(30), dropFrame: false })
    expect(follow(frames(1790, 1810, kept), { ...ntsc, start: 0 }).breaks).toBeGreaterThan(0)
  })
})

describe('binary groups of 50 frames a second, which count pairs of them', () => {
  const fast = { rate: makeRate(50), dropFrame: false, start: 1_800_000 }
  const pair = (phase: number) => (n: number) => label(Math.floor((n + phase) / 2))
  const none = { frames: 60, breaks: 0, at: null, other: null }
  it('follow, whichever frame of a pair is the first', () => {
    for (const phase of [0, 1]) expect(follow(frames(0, 60, pair(phase)), fast, true)).toMatchObject(none)
    // the file's own timecode may count pairs as well
    expect(follow(frames(0, 60, pair(0)), base, true, makeRate(50))).toMatchObject(none)
  })
  it('break where a pair is missing, and where every frame counts', () => {
    const cut = [...frames(0, 20, pair(0)), ...frames(20, 60, (n) => pair(0)(n + 2))]
    expect(follow(cut, fast, true)).toMatchObject({ breaks: 1, at: 20 })
    expect(follow(frames(0, 40, label), fast, true).breaks).toBeGreaterThan(10)
  })
  it('are not those of groups of pictures, which count to 59', () => {
    const each = (n: number) => formatTimecode(fast.start + n, fast)
    expect(follow(frames(0, 60, each), fast)).toMatchObject(none)
  })
})

describe('an ancillary timecode', () => {
  /** Sixteen words of ST 12-2 table 4: four bits of timecode, and of the kind one bit in each of the first eight. */
  const words = (text: string, kind: number, flags = 0) => {
    const [h, m, s, f] = labelParts(text)
    const groups = [f % 10, 15, Math.floor(f / 10) | flags, 15, s % 10, 15, Math.floor(s / 10) | (flags << 1), 15]
    groups.push(m % 10, 15, Math.floor(m / 10) | (flags & 8), 15, h % 10, 15, Math.floor(h / 10) | flags, 15)
    return Uint8Array.from(groups, (v, i) => (v << 4) | (i < 8 ? ((kind >> i) & 1) << 3 : 0))
  }
  it('is read from its nibbles, whatever flags and user bits stand beside them', () =>
    fc.assert(
      fc.property(
        fc.nat(24 * 3600 * 25 - 1),
        fc.constantFrom(0, 4, 8, 12),
        fc.constantFrom(0, 1, 2),
        (n, flags, kind) => {
          const text = formatTimecode(n, { rate, dropFrame: false })
          const packet = { did: 0x60, sdid: 0x60, words: words(text, kind, flags) }
          expect(packetTimecode(packet)).toEqual({
            label: text,
            kind: ['linear', 'vertical interval, first', 'vertical interval, second'][kind],
          })
        },
      ),
    ))
  it('is none with too few words', () => {
    expect(packetTimecode({ did: 0x60, sdid: 0x60, words: new Uint8Array(15) })).toBe(null)
  })
})
