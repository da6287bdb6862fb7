// The transform of 8×8 values (ITU-T H.262 annex A, SMPTE RDD 36).

/** Constants of the inverse, in order. */
export const inverseCosines = Float64Array.from({ length: 8 }, (_, k) => Math.cos((k * Math.PI) / 16) / 2)
type Eight = [number, number, number, number, number, number, number, number]
const [, c1, c2, c3, c4, c5, c6, c7] = [...inverseCosines] as Eight
const work = new Float64Array(64)

/** Eight values into eight others, `step` apart. */
function eight(x: Float64Array | Int16Array, from: number, out: Float64Array, to: number, step: number): void {
  const [x0, x1, x2, x3] = [x[from]!, x[from + step]!, x[from + 2 * step]!, x[from + 3 * step]!]
  const [x4, x5, x6, x7] = [x[from + 4 * step]!, x[from + 5 * step]!, x[from + 6 * step]!, x[from + 7 * step]!]
  if ((x1 || x2 || x3 || x4 || x5 || x6 || x7) === 0) {
    // most lines of most blocks
    const v = x0 * c4
    for (let i = 0; i < 8; i++) out[to + i * step] = v
    return
  }
  const a = (x0 + x4) * c4
  const b = (x0 - x4) * c4
  const d = x2 * c2 + x6 * c6
  const e = x2 * c6 - x6 * c2
  const [e0, e1, e2, e3] = [a + d, b + e, b - e, a - d]
  const o0 = x1 * c1 + x3 * c3 + x5 * c5 + x7 * c7
  const o1 = x1 * c3 - x3 * c7 - x5 * c1 - x7 * c5
  const o2 = x1 * c5 - x3 * c1 + x5 * c7 + x7 * c3
  const o3 = x1 * c7 - x3 * c5 + x5 * c3 - x7 * c1
  out[to] = e0 + o0
  out[to + step] = e1 + o1
  out[to + 2 * step] = e2 + o2
  out[to + 3 * step] = e3 + o3
  out[to + 4 * step] = e3 - o3
  out[to + 5 * step] = e2 - o2
  out[to + 6 * step] = e1 - o1
  out[to + 7 * step] = e0 - o0
}

/** The values of a block by its coefficients, line by line, not rounded; they hold until the next call. */
export function inverse(block: Int16Array): Float64Array {
  for (let i = 0; i < 64; i += 8) eight(block, i, work, i, 1)
  for (let i = 0; i < 8; i++) eight(work, i, work, i, 8)
  return work
}

const f = Math.fround
/** The constants of {@link forward}, in order; 32 bits each, as the kernel has them. */
export const cosines = Float32Array.from(inverseCosines)
const [, f1, f2, f3, f4, f5, f6, f7] = [...cosines] as Eight

/** The other way for eight values, rounded to 32 bits at every step. */
function eightForward(x: Float32Array, from: number, step: number): void {
  const [x0, x1, x2, x3] = [x[from]!, x[from + step]!, x[from + 2 * step]!, x[from + 3 * step]!]
  const [x4, x5, x6, x7] = [x[from + 4 * step]!, x[from + 5 * step]!, x[from + 6 * step]!, x[from + 7 * step]!]
  const [s0, s1, s2, s3] = [f(x0 + x7), f(x1 + x6), f(x2 + x5), f(x3 + x4)]
  const [d0, d1, d2, d3] = [f(x0 - x7), f(x1 - x6), f(x2 - x5), f(x3 - x4)]
  const [a0, a1, a2, a3] = [f(s0 + s3), f(s1 + s2), f(s0 - s3), f(s1 - s2)]
  x[from] = f(a0 + a1) * f4
  x[from + step] = f(f(d0 * f1) + f(d1 * f3)) + f(f(d2 * f5) + f(d3 * f7))
  x[from + 2 * step] = f(a2 * f2) + f(a3 * f6)
  x[from + 3 * step] = f(f(d0 * f3) - f(d1 * f7)) - f(f(d2 * f1) + f(d3 * f5))
  x[from + 4 * step] = f(a0 - a1) * f4
  x[from + 5 * step] = f(f(d0 * f5) - f(d1 * f1)) + f(f(d2 * f7) + f(d3 * f3))
  x[from + 6 * step] = f(a2 * f6) - f(a3 * f2)
  x[from + 7 * step] = f(f(d0 * f7) - f(d1 * f5)) - f(f(d3 * f1) - f(d2 * f3))
}

/** The coefficients of a block in place, line by line: {@link inverse} gives its values back. */
export function forward(block: Float32Array): void {
  for (let i = 0; i < 8; i++) eightForward(block, i, 8)
  for (let i = 0; i < 64; i += 8) eightForward(block, i, 1)
}

/** The inverse for eight values of 32 bits, rounded to as many at every step. */
function eightBack(x: Float32Array, from: number, step: number): void {
  const [x0, x1, x2, x3] = [x[from]!, x[from + step]!, x[from + 2 * step]!, x[from + 3 * step]!]
  const [x4, x5, x6, x7] = [x[from + 4 * step]!, x[from + 5 * step]!, x[from + 6 * step]!, x[from + 7 * step]!]
  const [a, b] = [f(f(x0 + x4) * f4), f(f(x0 - x4) * f4)]
  const d = f(f(x2 * f2) + f(x6 * f6))
  const e = f(f(x2 * f6) - f(x6 * f2))
  const [e0, e1, e2, e3] = [f(a + d), f(b + e), f(b - e), f(a - d)]
  const o0 = f(f(f(x1 * f1) + f(x3 * f3)) + f(f(x5 * f5) + f(x7 * f7)))
  const o1 = f(f(f(x1 * f3) - f(x3 * f7)) - f(f(x5 * f1) + f(x7 * f5)))
  const o2 = f(f(f(x1 * f5) - f(x3 * f1)) + f(f(x5 * f7) + f(x7 * f3)))
  const o3 = f(f(f(x1 * f7) - f(x3 * f5)) + f(f(x5 * f3) - f(x7 * f1)))
  x[from] = e0 + o0
  x[from + step] = e1 + o1
  x[from + 2 * step] = e2 + o2
  x[from + 3 * step] = e3 + o3
  x[from + 4 * step] = e3 - o3
  x[from + 5 * step] = e2 - o2
  x[from + 6 * step] = e1 - o1
  x[from + 7 * step] = e0 - o0
}

/** The values of a block in place, line by line, not rounded: {@link inverse} with 32 bits. */
export function inverse32(block: Float32Array): void {
  for (let i = 0; i < 64; i += 8) eightBack(block, i, 1)
  for (let i = 0; i < 8; i++) eightBack(block, i, 8)
}
