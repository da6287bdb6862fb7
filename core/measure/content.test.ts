import { describe, expect, it } from 'vitest'
import { blackPicture, type Picture } from '../picture/picture'
import { makeRate } from '../time/rate'
import { channelFacts } from './channels'
import { contentMeter } from './content'

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
  for (const p of pictures) m.feed(p)
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
