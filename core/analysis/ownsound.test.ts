import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ownSoundMeter, type OwnSound } from './ownsound'

const rate = 48000
const seconds = 2
const samples = seconds * rate
/** Noise that changes its strength, so that each place of it is unlike others. */
function noise(seed: number): Float32Array {
  let s = seed
  return Float32Array.from({ length: samples }, (_, i) => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0
    return (s / 2 ** 31 - 1) * 0.3 * (0.2 + Math.sin(i / 7000) ** 2)
  })
}
const own = [noise(1), noise(2)]
const onGrid = (x: Float32Array, bits: number) => x.map((v) => Math.round(v * 2 ** (bits - 1)) / 2 ** (bits - 1))
const moved = (x: Float32Array, by: number) => x.map((_, i) => x[i - by] ?? 0)

function compare(there: Float32Array[], exact: number | null, of: Float32Array[] = own): OwnSound {
  const meter = ownSoundMeter({ channels: of.length, sampleRate: rate, samples, exact })
  for (let at = 0; at < samples; at += rate) {
    const part = (list: Float32Array[]) => list.map((c) => c.subarray(at, at + rate))
    meter.feed(at, part(there), part(of))
  }
  return meter.result()
}

describe('sound that may not change', () => {
  it('is the same where it is off by its rounding alone', () => {
    for (const bits of [16, 24])
      expect(
        compare(
          own.map((c) => onGrid(c, bits)),
          bits,
        ),
      ).toEqual({ is: 'own', by: 'samples' })
    // what is beyond full scale is held there
    const loud = own.map((c) => c.map((v) => v * 9))
    const held = loud.map((c) => onGrid(c, 16).map((v) => Math.max(-1, Math.min(1 - 2 ** -15, v))))
    expect(compare(held, 16, loud)).toEqual({ is: 'own', by: 'samples' })
  })
  it('is another where one sample is off by more, wherever that is', () => {
    fc.assert(
      fc.property(fc.nat(samples - 1), fc.nat(1), fc.boolean(), (at, channel, up) => {
        const there = own.map((c) => onGrid(c, 24))
        there[channel]![at]! += (up ? 1 : -1) * 2 ** -22
        const found = compare(there, 24)
        expect(found).toMatchObject({ is: 'other', channels: [channel] })
        const [where] = (found as Extract<OwnSound, { is: 'other' }>).where
        expect([where!.in <= at / rate, where!.out > at / rate]).toEqual([true, true])
      }),
      { numRuns: 6 },
    )
  })
  it('is told to be late, turned over or another channel’s', () => {
    const there = own.map((c) => onGrid(c, 24))
    expect(
      compare(
        there.map((c) => moved(c, 1920)),
        24,
      ),
    ).toMatchObject({ is: 'shifted', late: 0.04 })
    expect(compare([there[1]!, there[0]!], 24)).toMatchObject({ is: 'other', as: { channel: 0, holds: 1 } })
    expect(compare([there[0]!, there[1]!.map((v) => -v)], 24)).toMatchObject({ channels: [1], as: 'turned over' })
  })
})

describe('sound that was coded', () => {
  /** What coding leaves of it: noise beside it, as loud as a half of it, and nothing over some frequency. */
  const coded = own.map((c, k) => {
    const other = noise(7 + k)
    return c.map((v, i) => 0.5 * (v + (c[i - 1] ?? 0)) * 1.15 + 0.3 * other[i]!)
  })
  it('is its own as long as it goes up and down with it', () => {
    const found = compare(coded, null)
    expect(found).toMatchObject({ is: 'own', by: 'likeness' })
    expect((found as { likeness: number }).likeness).toBeLessThan(0.95)
  })
  it('is late from a millisecond on, either way', () => {
    for (const by of [48, 1024, 4800, -1024]) {
      const found = compare(
        coded.map((c) => moved(c, by)),
        null,
      )
      expect(found).toMatchObject({ is: 'shifted' })
      expect((found as { late: number }).late).toBeCloseTo(by / rate, 3)
    }
  })
  it('is another where a third of a second is missing, or there where none should be', () => {
    const gap = coded.map((c) => c.slice())
    gap[1]!.fill(0, rate, rate + rate / 3)
    expect(compare(gap, null)).toMatchObject({ is: 'other', channels: [1] })
    const quiet = own.map((c) => c.slice().fill(0, rate, 2 * rate))
    expect(compare(coded, null, quiet)).toMatchObject({ is: 'other', channels: [0, 1] })
  })
  it('is not another where what was soft and high was left out, or spread before a beat', () => {
    const whistle = Float32Array.from({ length: samples }, (_, i) => 0.005 * Math.sin((2 * Math.PI * 17000 * i) / rate))
    expect(compare([new Float32Array(samples)], null, [whistle])).toMatchObject({ is: 'own' })
    const beat = new Float32Array(samples)
    for (let i = 0; i < 400; i++) beat[rate / 2 + i] = 0.5 * own[0]![i]!
    const spread = beat.slice()
    for (let i = 1; i < 900; i++) spread[rate / 2 - i] = 0.02 * own[1]![i]!
    expect(compare([spread], null, [beat])).toMatchObject({ is: 'own' })
  })
  it('is louder, softer, swapped, and silent where both are', () => {
    expect(
      compare(
        coded.map((c) => c.map((v) => v * 0.7)),
        null,
      ),
    ).toMatchObject({ is: 'level', channel: 0 })
    expect(compare([coded[1]!, coded[0]!], null)).toMatchObject({ is: 'other', as: { channel: 0, holds: 1 } })
    const silence = [new Float32Array(samples)]
    expect(compare(silence, null, silence)).toEqual({ is: 'own', by: 'likeness', likeness: 1 })
  })
})
