// The inverse transform of ITU-T H.262 annex A, in doubles: nearest to what the standard asks of all of them.

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
