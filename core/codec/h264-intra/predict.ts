// Intra prediction (ITU-T H.264 8.3). A 4×4 or 8×8 block is predicted from its neighbours, put in one row from the
// lowest at the left over the corner to the last above; every sample of every mode is one of: a neighbour, the mean
// of two, the mean of three weighed 1 2 1, the mean of all. Those are worked out once, and each mode is a table of
// places.

/** Prediction modes of 4×4 and 8×8 blocks (tables 8-2 and 8-3); what is none of these is horizontal, upwards (8). */
const [vertical, horizontal, dc, downLeft, downRight, verticalRight, horizontalDown, verticalLeft] = [
  0, 1, 2, 3, 4, 5, 6, 7,
] as const

/** Prediction modes of 16×16 blocks (table 8-4), and of chroma (table 8-5), which has another order. */
export const large = { vertical: 0, horizontal: 1, dc: 2, plane: 3 } as const
export const chroma = { dc: 0, horizontal: 1, vertical: 2, plane: 3 } as const

// where means of three, of two, and of all stand among a block's values, after the neighbours themselves
const [three, two, all] = [32, 64, 96]

/** The places of a mode's samples, line by line, for blocks of `n` × `n`. */
function places(n: number, mode: number): Uint8Array {
  // the row of neighbours: left ones upwards, the corner, those above
  const left = (i: number) => n - 1 - i
  const above = (i: number) => n + 1 + i
  const of = (x: number, y: number): number => {
    if (mode === vertical) return above(x)
    if (mode === horizontal) return left(y)
    if (mode === dc) return all
    if (mode === downLeft) return three + above(x + y + 1)
    if (mode === downRight) return three + n + x - y
    if (mode === verticalRight) {
      const z = 2 * x - y
      const i = x - (y >> 1)
      if (z >= 0) return z % 2 === 0 ? two + above(i - 1) : three + above(i - 1)
      return z === -1 ? three + n : three + left(y - 2 * x - 2)
    }
    if (mode === horizontalDown) {
      const z = 2 * y - x
      const i = y - (x >> 1)
      if (z >= 0) return z % 2 === 0 ? two + left(i) : three + left(i - 1)
      return z === -1 ? three + n : three + above(x - 2 * y - 2)
    }
    if (mode === verticalLeft) return y % 2 === 0 ? two + above(x + (y >> 1)) : three + above(x + (y >> 1) + 1)
    const z = x + 2 * y
    if (z > 2 * n - 3) return left(n - 1)
    if (z === 2 * n - 3) return three
    return z % 2 === 0 ? two + left(y + (x >> 1) + 1) : three + left(y + (x >> 1) + 1)
  }
  return Uint8Array.from({ length: n * n }, (_, i) => of(i % n, Math.floor(i / n)))
}

const modes = Array.from({ length: 9 }, (_, m) => m)
/** Where the samples of each mode are taken from, for blocks of four and of eight lines. */
export const places4 = modes.map((m) => places(4, m))
export const places8 = modes.map((m) => places(8, m))

/** Which neighbours of a block there are. */
export const [hasLeft, hasAbove, hasCorner, hasRight] = [1, 2, 4, 8] as const

/** What a mode needs, as a sum of {@link hasLeft} and others. */
export const needs = Uint8Array.of(
  hasAbove,
  hasLeft,
  0,
  hasAbove,
  ...[1, 2, 3].map(() => hasLeft | hasAbove | hasCorner),
  hasAbove,
  hasLeft,
)

/**
 * Reads the neighbours of a block of `n` × `n` at a place of a plane into a row, and works out what modes are made of.
 * Neighbours above to the right that are missing are the last above; others that are missing stay what they were, and
 * no mode may use them.
 */
export function blockValues(
  out: Int32Array,
  plane: Uint16Array,
  at: number,
  stride: number,
  n: number,
  there: number,
  middle: number,
): void {
  if (there & hasLeft) for (let i = 0, p = at - 1; i < n; i++, p += stride) out[n - 1 - i] = plane[p]!
  if (there & hasCorner) out[n] = plane[at - stride - 1]!
  if (there & hasAbove) {
    const above = at - stride
    const far = there & hasRight ? 2 * n : n
    for (let i = 0; i < far; i++) out[n + 1 + i] = plane[above + i]!
    for (let i = far; i < 2 * n; i++) out[n + 1 + i] = out[n + far]!
  }
  if (n === 8) smooth(out, there)
  derive(out, n, there, middle)
}

const row = new Int32Array(26)

/** Reference samples of 8×8 blocks are smoothed first (8.3.2.2.1). */
function smooth(out: Int32Array, there: number): void {
  row.set(out.subarray(0, 25))
  const left = (there & hasLeft) !== 0
  const above = (there & hasAbove) !== 0
  const corner = (there & hasCorner) !== 0
  if (left) {
    out[0] = (row[1]! + 3 * row[0]! + 2) >> 2
    for (let i = 1; i < 7; i++) out[i] = (row[i - 1]! + 2 * row[i]! + row[i + 1]! + 2) >> 2
    out[7] = corner ? (row[6]! + 2 * row[7]! + row[8]! + 2) >> 2 : (row[6]! + 3 * row[7]! + 2) >> 2
  }
  if (corner) {
    if (left && above) out[8] = (row[7]! + 2 * row[8]! + row[9]! + 2) >> 2
    else if (left || above) out[8] = (3 * row[8]! + (left ? row[7]! : row[9]!) + 2) >> 2
  }
  if (above) {
    out[9] = corner ? (row[8]! + 2 * row[9]! + row[10]! + 2) >> 2 : (3 * row[9]! + row[10]! + 2) >> 2
    for (let i = 10; i < 24; i++) out[i] = (row[i - 1]! + 2 * row[i]! + row[i + 1]! + 2) >> 2
    out[24] = (row[23]! + 3 * row[24]! + 2) >> 2
  }
}

/** Means of two and three neighbours, and of all. */
function derive(out: Int32Array, n: number, there: number, middle: number): void {
  const last = 3 * n
  for (let i = 0; i < last; i++) out[two + i] = (out[i]! + out[i + 1]! + 1) >> 1
  out[three] = (3 * out[0]! + out[1]! + 2) >> 2
  for (let i = 1; i < last; i++) out[three + i] = (out[i - 1]! + 2 * out[i]! + out[i + 1]! + 2) >> 2
  out[three + last] = (out[last - 1]! + 3 * out[last]! + 2) >> 2
  let sum = 0
  if (there & hasLeft) for (let i = 0; i < n; i++) sum += out[i]!
  if (there & hasAbove) for (let i = n + 1; i < 2 * n + 1; i++) sum += out[i]!
  const bits = n === 4 ? 2 : 3
  const both = (there & hasLeft) !== 0 && (there & hasAbove) !== 0
  if ((there & (hasLeft | hasAbove)) === 0) out[all] = middle
  else out[all] = both ? (sum + n) >> (bits + 1) : (sum + (n >> 1)) >> bits
}

/** A block of `width` × `height` of which each sample follows from its place: plane prediction (8.3.3.4, 8.3.4.4). */
function plane(
  out: Int32Array,
  samples: Uint16Array,
  at: number,
  stride: number,
  width: number,
  height: number,
  most: number,
): void {
  const [hx, hy] = [width >> 1, height >> 1]
  let [h, v] = [0, 0]
  for (let i = 1; i <= hx; i++) h += i * (samples[at - stride + hx - 1 + i]! - samples[at - stride + hx - 1 - i]!)
  for (let i = 1; i <= hy; i++)
    v += i * (samples[at - 1 + (hy - 1 + i) * stride]! - samples[at - 1 + (hy - 1 - i) * stride]!)
  const slope = (n: number, s: number) => ((n === 8 ? 34 : 5) * s + 32) >> 6
  const b = slope(width, h)
  const c = slope(height, v)
  const a = 16 * (samples[at - 1 + (height - 1) * stride]! + samples[at - stride + width - 1]!)
  for (let y = 0, o = 0; y < height; y++)
    for (let x = 0; x < width; x++, o++) {
      const s = (a + b * (x - hx + 1) + c * (y - hy + 1) + 16) >> 5
      out[o] = s < 0 ? 0 : s > most ? most : s
    }
}

const copyAbove = (out: Int32Array, p: Uint16Array, at: number, stride: number, width: number, height: number) => {
  for (let y = 0, o = 0; y < height; y++) for (let x = 0; x < width; x++) out[o++] = p[at - stride + x]!
}
const copyLeft = (out: Int32Array, p: Uint16Array, at: number, stride: number, width: number, height: number) => {
  for (let y = 0; y < height; y++) out.fill(p[at - 1 + y * stride]!, y * width, y * width + width)
}

/** Predicts luma of a whole macroblock (8.3.3); `most` is the highest code. */
export function predict16(
  out: Int32Array,
  mode: number,
  p: Uint16Array,
  at: number,
  stride: number,
  there: number,
  most: number,
): void {
  if (mode === large.vertical) return copyAbove(out, p, at, stride, 16, 16)
  if (mode === large.horizontal) return copyLeft(out, p, at, stride, 16, 16)
  if (mode === large.plane) return plane(out, p, at, stride, 16, 16, most)
  let sum = 0
  if (there & hasAbove) for (let x = 0; x < 16; x++) sum += p[at - stride + x]!
  if (there & hasLeft) for (let y = 0; y < 16; y++) sum += p[at - 1 + y * stride]!
  const sides = (there & hasAbove ? 1 : 0) + (there & hasLeft ? 1 : 0)
  out.fill(sides === 0 ? (most + 1) >> 1 : (sum + 8 * sides) >> (3 + sides), 0, 256)
}

/** Predicts a chroma plane of a macroblock, 8 wide and 8 or 16 high (8.3.4). */
export function predictChroma(
  out: Int32Array,
  mode: number,
  p: Uint16Array,
  at: number,
  stride: number,
  height: number,
  there: number,
  most: number,
): void {
  if (mode === chroma.vertical) return copyAbove(out, p, at, stride, 8, height)
  if (mode === chroma.horizontal) return copyLeft(out, p, at, stride, 8, height)
  if (mode === chroma.plane) return plane(out, p, at, stride, 8, height, most)
  const above = (there & hasAbove) !== 0
  const left = (there & hasLeft) !== 0
  for (let y = 0; y < height; y += 4)
    for (let x = 0; x < 8; x += 4) {
      let [a, l] = [0, 0]
      if (above) for (let i = 0; i < 4; i++) a += p[at - stride + x + i]!
      if (left) for (let i = 0; i < 4; i++) l += p[at - 1 + (y + i) * stride]!
      // blocks of the first line lean on what is above, those of the first column on the left, the others on both
      const fromAbove = above && !(x === 0 && y > 0 && left)
      const fromLeft = left && !(x > 0 && y === 0 && above)
      let value = (most + 1) >> 1
      if (fromAbove && fromLeft) value = (a + l + 4) >> 3
      else if (fromAbove) value = (a + 2) >> 2
      else if (fromLeft) value = (l + 2) >> 2
      for (let i = 0; i < 4; i++) out.fill(value, (y + i) * 8 + x, (y + i) * 8 + x + 4)
    }
}
