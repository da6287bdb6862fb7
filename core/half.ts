// Floating-point numbers of 16 bits (IEEE 754-2008 binary16).

const value = new Float32Array(1)
const bits = new Uint32Array(value.buffer)

/** The nearest half to a number, ties to even; what is too large becomes infinity. */
export function toHalf(v: number): number {
  value[0] = v
  const x = bits[0]!
  const sign = (x >>> 16) & 0x8000
  const exponent = (x >>> 23) & 0xff
  const fraction = x & 0x7fffff
  if (exponent === 0xff) return sign | 0x7c00 | (fraction ? 0x200 : 0)
  const e = exponent - 112
  if (e >= 31) return sign | 0x7c00
  if (e <= 0) {
    if (e < -10) return sign
    const whole = fraction | 0x800000
    return sign | rounded(whole, 14 - e)
  }
  // a carry out of the fraction is one more of the exponent, as it should be
  return sign | ((e << 10) + rounded(fraction, 13))
}

/** An integer shifted right, rounded to the nearest, ties to even. */
function rounded(n: number, by: number): number {
  const half = 1 << (by - 1)
  const rest = n & ((1 << by) - 1)
  const down = n >>> by
  return rest > half || (rest === half && down & 1) ? down + 1 : down
}

/** Every half as a number. */
export const halves: Float32Array = Float32Array.from({ length: 65536 }, (_, h) => {
  const sign = h & 0x8000 ? -1 : 1
  const exponent = (h >> 10) & 31
  const fraction = h & 1023
  if (exponent === 31) return fraction ? Number.NaN : sign * Infinity
  return sign * (exponent === 0 ? fraction * 2 ** -24 : (1024 + fraction) * 2 ** (exponent - 25))
})
