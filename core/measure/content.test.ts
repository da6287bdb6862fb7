import { describe, expect, it } from 'vitest'
import { blackPicture, type Picture } from '../picture/picture'
import { makeRate } from '../time/rate'
import { channelFacts } from './channels'
import { contentMeter } from './content'
import { levelMeter } from './levels'
import { soundFaults } from './soundfaults'
import { packTrace, traceOf, traceSize, unpackTrace } from './trace'

const rate = makeRate(25)
function frame(level: number, moving = 0): Picture {
  const p = blackPicture(256, 144, '4:2:0', 8)
  p.planes[0].fill(level)
  p.planes[0].fill(200, (moving % 100) * 256, ((moving % 100) + 20) * 256)
  return p
}
const black = () => blackPicture(256, 144, '4:2:0', 8)
function measure(pictures: readonly Picture[]) {
  const m = contentMeter({ rate, shortestFreeze: 25 })
  for (const p of pictures) m.feed(traceOf(p))
  return m.result()
}

describe('black, still and flashing stretches', () => {
  it('finds a hole of two frames', () => {
    const r = measure(Array.from({ length: 40 }, (_, i) => (i === 20 || i === 21 ? black() : frame(80, i * 3))))
    expect(r).toEqual({ black: [{ in: 20, out: 22 }], freeze: [], flashes: [] })
  })
  it('finds a freeze of a second, not one shorter', () => {
    expect(measure(Array.from({ length: 80 }, (_, i) => frame(80, i < 20 ? i * 3 : i < 46 ? 60 : i * 3))).freeze).toEqual([{ in: 20, out: 46 }])
    expect(measure(Array.from({ length: 80 }, (_, i) => frame(80, i < 20 ? i * 3 : i < 40 ? 60 : i * 3))).freeze).toEqual([])
  })
  it('does not call black a freeze', () => {
    const r = measure(Array.from({ length: 60 }, () => black()))
    expect(r.black).toEqual([{ in: 0, out: 60 }])
    expect(r.freeze).toEqual([])
  })
  /** BT.1702: `hz` flashes a second for two seconds over a share of the screen, between two luma codes. */
  const flashing = (hz: number, share: number, dark: number, bright: number) => Array.from({ length: 50 }, (_, i) => {
    const p = frame(dark, i)
    if (Math.floor((i * hz * 2) / 25) % 2) p.planes[0].fill(bright, 0, Math.round(144 * share) * 256)
    return p
  })
  it('finds more than three flashes a second over more than a quarter of the screen', () => {
    expect(measure(flashing(5, 0.5, 40, 220)).flashes).toHaveLength(1)
    expect(measure(flashing(2, 0.5, 40, 220)).flashes).toEqual([])
    expect(measure(flashing(5, 0.15, 40, 220)).flashes).toEqual([])
    expect(measure(flashing(5, 0.5, 40, 60)).flashes).toEqual([])
  })
  it('counts nothing where the darker state is over 160 cd/m²', () => expect(measure(flashing(5, 0.5, 218, 235)).flashes).toEqual([]))
})

describe('channels', () => {
  const sine = (f: number, a: number) => Float32Array.from({ length: 4800 }, (_, i) => a * Math.sin((2 * Math.PI * f * i) / 48000))
  const facts = (...c: Float32Array[]) => {
    const m = channelFacts(c.length)
    m.feed(c)
    return m.result()
  }
  it('tells channels in phase from channels out of phase', () => {
    const s = sine(500, 0.5)
    expect(facts(s, s).correlation).toBeCloseTo(1, 6)
    expect(facts(s, s.map(v => -v)).correlation).toBeCloseTo(-1, 6)
    expect(Math.abs(facts(s, sine(700, 0.5)).correlation!)).toBeLessThan(0.05)
  })
  it('has no correlation with silence, and no level for it', () => {
    const r = facts(sine(500, 0.5), new Float32Array(4800))
    expect(r.correlation).toBeNull()
    expect(r.peaks[1]).toBe(-Infinity)
    expect(r.levels[0]).toBeCloseTo(-9.03, 1)
  })
})

describe('traces', () => {
  it('are the same after being kept', () => {
    const t = traceOf(frame(90, 7))
    expect(packTrace(t)).toHaveLength(traceSize)
    expect(unpackTrace(packTrace(t))).toEqual(t)
    const buffer = Buffer.from(packTrace(t))
    const read = unpackTrace(buffer)
    buffer.fill(0)
    expect(read).toEqual(t)
  })
})

describe('levels (EBU R 103) and bars', () => {
  /** A picture of one colour in 8-bit codes over a share of its lines. */
  const patch = (y: number, u: number, v: number, share: number) => {
    const p = frame(110)
    const lines = Math.round(144 * share)
    p.planes[0].fill(y, 0, lines * 256)
    p.planes[1].fill(u, 0, Math.ceil(lines / 2) * 128)
    p.planes[2].fill(v, 0, Math.ceil(lines / 2) * 128)
    return p
  }
  const levels = (...pictures: Picture[]) => {
    const m = levelMeter(256, 144)
    for (const p of pictures) m.feed(traceOf(p))
    return m.result()
  }
  it.each([
    // 105 % is code 245.95, −5 % is 5.05: one code within, one beyond
    ['luma at 105 %', 245, 128, 128, 0], ['luma over 105 %', 247, 128, 128, 1], ['luma at −5 %', 6, 128, 128, 0], ['luma under −5 %', 4, 128, 128, 1],
    ['full red of BT.601', 81, 90, 240, 0], ['red that no R′G′B′ has', 120, 90, 240, 1], ['blue over its white', 200, 240, 110, 1],
  ])('%s', (_, y, u, v, n) => expect(levels(patch(y, u, v, 0.5)).excursions).toHaveLength(n))
  it('allows one per cent of the picture', () => {
    const small = frame(110)
    for (let y = 40; y < 56; y++) small.planes[0].fill(250, y * 256 + 100, y * 256 + 116)
    expect(levels(small).excursions).toEqual([])
    expect(levels(patch(250, 128, 128, 0.05), frame(90), patch(250, 128, 128, 0.05)).excursions.map(e => [e.in, e.out])).toEqual([[0, 1], [2, 3]])
  })
  it('finds the picture between bars, dark frames aside', () => {
    const letterbox = () => {
      const p = frame(90, 50)
      p.planes[0].fill(16, 0, 18 * 256)
      p.planes[0].fill(16, 126 * 256)
      return p
    }
    expect(levels(...Array.from({ length: 30 }, (_, i) => (i === 4 ? black() : letterbox()))).active).toEqual({ x: 0, y: 18, width: 256, height: 108 })
    expect(levels(frame(90), frame(90)).active).toBeNull()
  })
})

describe('sound faults', () => {
  const rate48 = 48000
  const tone = (seconds: number, f = 440, a = 0.3) => Float32Array.from({ length: seconds * rate48 }, (_, i) => a * Math.sin((2 * Math.PI * f * i) / rate48))
  const faults = (channels: Float32Array[], block = 4800) => {
    const m = soundFaults(channels.length, rate48)
    for (let at = 0; at < channels[0]!.length; at += block) m.feed(channels.map(c => c.subarray(at, at + block)))
    return m.result()
  }
  it('finds nothing in clean sound', () => expect(faults([tone(3), tone(3)])).toEqual({ silence: [], clicks: [], dropouts: [], phase: [] }))
  it.each([1000, 4800, 48000])('finds clicks, dropouts, silence and phase, in blocks of %d', (block) => {
    const l = tone(8)
    const r = Float32Array.from(l)
    l[30_000] = l[30_000]! + 0.5
    r.fill(0, 60_010, 60_200)
    for (let i = 96_000; i < 168_000; i++) r[i] = -l[i]!
    l.fill(0, 240_000, 288_000)
    r.fill(0, 240_000, 288_000)
    const f = faults([l, r], block)
    expect(f.clicks.length).toBe(1)
    expect(Math.abs(f.clicks[0]!.in - 30_000)).toBeLessThan(4)
    expect(f.dropouts).toEqual([{ in: 60_010, out: 60_200 }])
    expect(f.phase).toEqual([{ in: 96_000, out: 168_000 }])
    expect(f.silence).toEqual([{ in: 240_000, out: 288_000 }])
  })
})
