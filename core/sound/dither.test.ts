import { describe, expect, it } from 'vitest'
import { encodePcm } from '../codec/pcm/pcm'
import { dithered } from './dither'

const count = 200_000
/** Values as 16-bit output has them, in its steps. */
function written(value: (i: number) => number, from = 0, salt = 0): Int16Array {
  const channel = Float32Array.from({ length: count }, (_, i) => value(i) / 32768)
  return new Int16Array(encodePcm([dithered(channel, 16, from, salt)], 16, true).buffer)
}
const mean = (v: ArrayLike<number>) => Array.from(v).reduce((a, b) => a + b, 0) / v.length
const variance = (v: ArrayLike<number>, around: number) => mean(Array.from(v, (x) => (x - around) ** 2))

describe('dither of 24 to 16 bits', () => {
  // Lipshitz, Wannamaker, Vanderkooy: with TPDF neither mean nor variance of the error depends on the signal; the
  // error has a quarter of a squared step
  it.each([0, 0.1, 0.25, 0.5, 0.77])('keeps a level of %s steps, with noise that does not depend on it', (level) => {
    const out = written(() => level)
    expect(mean(out)).toBeCloseTo(level, 1.9)
    expect(variance(out, level)).toBeCloseTo(0.25, 1.9)
  })
  it('keeps a tone of a third of a step, which rounding alone makes silent', () => {
    const tone = (i: number) => 0.33 * Math.sin((2 * Math.PI * i) / 48)
    const heard = (v: ArrayLike<number>) => (2 * mean(Array.from(v, (x, i) => x * tone(i)))) / 0.33
    expect(heard(written(tone))).toBeCloseTo(0.33, 1.9)
    const rounded = Float32Array.from({ length: count }, (_, i) => tone(i) / 32768)
    expect(new Int16Array(encodePcm([rounded], 16, true).buffer).some((x) => x !== 0)).toBe(false)
  })
  it('is the same for the same place, however the sound is cut up, and another for another channel', () => {
    const whole = written(() => 0.3)
    const later = written(() => 0.3, 1000)
    expect([...later.subarray(0, 500)]).toEqual([...whole.subarray(1000, 1500)])
    const other = written(() => 0.3, 0, 1)
    const together = mean(Array.from(whole, (x, i) => (x - 0.3) * (other[i]! - 0.3)))
    expect(Math.abs(together)).toBeLessThan(0.005)
  })
})
