import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { halves, toHalf } from './half'

describe('halves', () => {
  it('are what they are read as', () => {
    for (let h = 0; h < 65536; h++) if (!Number.isNaN(halves[h]!)) expect(toHalf(halves[h]!)).toBe(h)
  })
  it('are the nearest, ties to the even one', () => {
    fc.assert(
      fc.property(fc.float({ min: -65503, max: 65503, noNaN: true }), (v) => {
        const h = toHalf(v)
        const off = Math.abs(halves[h]! - v)
        for (const next of [h - 1, h + 1])
          if (Number.isFinite(halves[next]!)) expect(Math.abs(halves[next]! - v)).toBeGreaterThanOrEqual(off)
      }),
    )
    expect([toHalf(2049), toHalf(2051), toHalf(1e9), toHalf(-Infinity), toHalf(1e-9)]).toEqual([
      ...[0x6800, 0x6802, 0x7c00, 0xfc00, 0],
    ])
    expect(Number.isNaN(halves[toHalf(Number.NaN)]!)).toBe(true)
  })
})
