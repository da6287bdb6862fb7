import { hasAbove, hasLeft } from './predict'
import { kinds, type Grid } from './grid'
import type { SliceHeader } from './parameters'

// The deblocking filter (ITU-T H.264 8.7) where all macroblocks are intra: edges of macroblocks are filtered with
// strength 4 (3 across the lines of fields), those within with 3.

const alphas = Uint8Array.of(
  ...Array<number>(16).fill(0),
  ...[4, 4, 5, 6, 7, 8, 9, 10, 12, 13, 15, 17, 20, 22, 25, 28, 32, 36, 40, 45, 50, 56, 63, 71, 80, 90, 101, 113],
  ...[127, 144, 162, 182, 203, 226, 255, 255],
)
const betas = Uint8Array.of(
  ...Array<number>(16).fill(0),
  ...[2, 2, 2, 3, 3, 3, 3, 4, 4, 4, 6, 6, 7, 7, 8, 8, 9, 9, 10, 10, 11, 11, 12, 12, 13, 13, 14, 14, 15, 15, 16, 16],
  ...[17, 17, 18, 18],
)
/** tC0 for strength 3 (table 8-17). */
const clips = Uint8Array.of(
  ...Array<number>(17).fill(0),
  ...[1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 2, 2, 2, 2, 3, 3, 3, 4, 4, 4, 5, 6, 6, 7, 8, 9, 10, 11, 13, 14, 16, 18, 20, 23, 25],
)

interface Edge {
  readonly plane: Uint16Array
  /** The first sample behind the edge, the step across it, the step along it, and how many samples it is long. */
  readonly at: number
  readonly across: number
  readonly along: number
  readonly length: number
  readonly strong: boolean
  readonly luma: boolean
  /** The mean QP of both sides. */
  readonly qp: number
}

/** Filters one edge; `depth` is that of the samples. */
function filter(
  { plane, at, across, along, length, strong, luma, qp }: Edge,
  d: SliceHeader['deblocking'],
  depth: number,
) {
  const clip3 = (least: number, most: number, v: number) => (v < least ? least : v > most ? most : v)
  const a = clip3(0, 51, qp + d.alpha)
  const shift = depth - 8
  const alpha = alphas[a]! << shift
  const beta = betas[clip3(0, 51, qp + d.beta)]! << shift
  if (alpha === 0 || beta === 0) return
  const tc0 = clips[a]! << shift
  const most = (1 << depth) - 1
  for (let i = 0, q = at; i < length; i++, q += along) {
    const [p0, p1, q0, q1] = [plane[q - across]!, plane[q - 2 * across]!, plane[q]!, plane[q + across]!]
    if (Math.abs(p0 - q0) >= alpha || Math.abs(p1 - p0) >= beta || Math.abs(q1 - q0) >= beta) continue
    if (!luma) {
      if (strong) {
        plane[q - across] = (2 * p1 + p0 + q1 + 2) >> 2
        plane[q] = (2 * q1 + q0 + p1 + 2) >> 2
      } else {
        const delta = clip3(-tc0 - 1, tc0 + 1, (((q0 - p0) << 2) + (p1 - q1) + 4) >> 3)
        plane[q - across] = clip3(0, most, p0 + delta)
        plane[q] = clip3(0, most, q0 - delta)
      }
      continue
    }
    const [p2, q2] = [plane[q - 3 * across]!, plane[q + 2 * across]!]
    const flatP = Math.abs(p2 - p0) < beta
    const flatQ = Math.abs(q2 - q0) < beta
    if (strong) {
      const near = Math.abs(p0 - q0) < (alpha >> 2) + 2
      if (flatP && near) {
        const p3 = plane[q - 4 * across]!
        plane[q - across] = (p2 + 2 * p1 + 2 * p0 + 2 * q0 + q1 + 4) >> 3
        plane[q - 2 * across] = (p2 + p1 + p0 + q0 + 2) >> 2
        plane[q - 3 * across] = (2 * p3 + 3 * p2 + p1 + p0 + q0 + 4) >> 3
      } else plane[q - across] = (2 * p1 + p0 + q1 + 2) >> 2
      if (flatQ && near) {
        const q3 = plane[q + 3 * across]!
        plane[q] = (p1 + 2 * p0 + 2 * q0 + 2 * q1 + q2 + 4) >> 3
        plane[q + across] = (p0 + q0 + q1 + q2 + 2) >> 2
        plane[q + 2 * across] = (2 * q3 + 3 * q2 + q1 + q0 + p0 + 4) >> 3
      } else plane[q] = (2 * q1 + q0 + p1 + 2) >> 2
      continue
    }
    const tc = tc0 + (flatP ? 1 : 0) + (flatQ ? 1 : 0)
    const delta = clip3(-tc, tc, (((q0 - p0) << 2) + (p1 - q1) + 4) >> 3)
    if (flatP) plane[q - 2 * across] = p1 + clip3(-tc0, tc0, (p2 + ((p0 + q0 + 1) >> 1) - 2 * p1) >> 1)
    if (flatQ) plane[q + across] = q1 + clip3(-tc0, tc0, (q2 + ((p0 + q0 + 1) >> 1) - 2 * q1) >> 1)
    plane[q - across] = clip3(0, most, p0 + delta)
    plane[q] = clip3(0, most, q0 - delta)
  }
}

/**
 * Filters a decoded picture, macroblock after macroblock. `filterOf` gives what the slice of each says; `qpOf` the QP
 * of a plane for a macroblock's, without what the depth adds.
 */
export function deblock(
  grid: Grid,
  depth: number,
  filterOf: (mb: number) => SliceHeader['deblocking'],
  qpOf: (plane: number, qp: number) => number,
): void {
  // PCM macroblocks count as of QP′ 0: 8.7.2.2 says QP 0, which is the same at 8 bits; deeper, decoders do as here
  const least = -6 * (depth - 8)
  const qp = (m: number, plane: number) => qpOf(plane, grid.kind[m] === kinds.raw ? least : grid.qps[m]!)
  for (let mb = 0; mb < grid.count; mb++) {
    const d = filterOf(mb)
    if (d.off === 1) continue
    const sides = d.off === 0 ? grid.sides(mb) : grid.there(mb)
    for (let number = 0; number < 3; number++) {
      const plane = grid.surface.planes[number]!
      const luma = number === 0
      const [width, lines] = luma ? [16, 16] : [8, grid.chromaLines]
      const stride = grid.stride(mb, number)
      const at = grid.at(mb, number)
      const inner = luma && grid.kind[mb] === kinds.eight ? 8 : 4
      const own = qp(mb, number)
      // plain numbers, and one object of one shape for all edges: a picture has some two hundred thousand
      const edge = (at: number, across: number, along: number, length: number, strong: boolean, other: number) =>
        filter({ plane, at, across, along, length, strong, luma, qp: (own + other + 1) >> 1 }, d, depth)
      if (sides & hasLeft) {
        const left = (line: number) => qp(Math.floor(grid.leftOf(mb, line, lines) / lines), number)
        if (grid.ofField(grid.left(mb)) === grid.ofField(mb)) edge(at, 1, stride, lines, true, left(0))
        // a pair of the other kind: each line has one of both beside it
        else for (let y = 0; y < lines; y++) edge(at + y * stride, 1, stride, 1, true, left(y))
      }
      for (let x = inner; x < width; x += inner) edge(at + x, 1, stride, lines, false, own)
      if (sides & hasAbove) {
        const above = grid.above(mb)
        const [fields, fieldsAbove] = [grid.ofField(mb), grid.ofField(above)]
        // fields are never filtered strongly across their lines
        if (fields || !fieldsAbove) edge(at, stride, 1, width, !fields && !fieldsAbove, qp(above, number))
        // frame lines below a pair of fields: once for each field
        else
          for (const line of [0, 1]) edge(at + line * stride, 2 * stride, 1, width, false, qp(above - 1 + line, number))
      }
      for (let y = inner; y < lines; y += inner) edge(at + y * stride, stride, 1, width, false, own)
    }
  }
}
