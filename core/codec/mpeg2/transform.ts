// The transform of ITU-T H.262 annex A and its inverse, in doubles: nearest to what the standard asks of all of them.

const c = Array.from({ length: 8 }, (_, k) => Math.cos((k * Math.PI) / 16) / 2)
const [c1, c2, c3, c4, c5, c6, c7] = c.slice(1) as [number, number, number, number, number, number, number]
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

/** The other way for eight values. */
function eightForward(x: Float64Array, from: number, step: number): void {
  const [x0, x1, x2, x3] = [x[from]!, x[from + step]!, x[from + 2 * step]!, x[from + 3 * step]!]
  const [x4, x5, x6, x7] = [x[from + 4 * step]!, x[from + 5 * step]!, x[from + 6 * step]!, x[from + 7 * step]!]
  const [s0, s1, s2, s3] = [x0 + x7, x1 + x6, x2 + x5, x3 + x4]
  const [d0, d1, d2, d3] = [x0 - x7, x1 - x6, x2 - x5, x3 - x4]
  const [a0, a1, a2, a3] = [s0 + s3, s1 + s2, s0 - s3, s1 - s2]
  x[from] = (a0 + a1) * c4
  x[from + step] = d0 * c1 + d1 * c3 + d2 * c5 + d3 * c7
  x[from + 2 * step] = a2 * c2 + a3 * c6
  x[from + 3 * step] = d0 * c3 - d1 * c7 - d2 * c1 - d3 * c5
  x[from + 4 * step] = (a0 - a1) * c4
  x[from + 5 * step] = d0 * c5 - d1 * c1 + d2 * c7 + d3 * c3
  x[from + 6 * step] = a2 * c6 - a3 * c2
  x[from + 7 * step] = d0 * c7 - d1 * c5 + d2 * c3 - d3 * c1
}

/** The coefficients of a block in place, line by line: {@link inverse} gives its values back. */
export function forward(block: Float64Array): void {
  for (let i = 0; i < 64; i += 8) eightForward(block, i, 1)
  for (let i = 0; i < 8; i++) eightForward(block, i, 8)
}
