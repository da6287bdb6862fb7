// Transforms and quantisation (ITU-T H.264 8.5), both ways; all in integers, so that every decoder comes to the same.

/** normAdjust of 4×4 blocks by QP % 6: at even places, at odd ones, at others (8.5.9). */
const adjust4 = [
  [10, 16, 13],
  [11, 18, 14],
  [13, 20, 16],
  [14, 23, 18],
  [16, 25, 20],
  [18, 29, 23],
] as const

/** normAdjust of 8×8 blocks by QP % 6. */
const adjust8 = [
  [20, 18, 32, 19, 25, 24],
  [22, 19, 35, 21, 28, 26],
  [26, 23, 42, 24, 33, 31],
  [28, 25, 45, 26, 35, 33],
  [32, 28, 51, 30, 40, 38],
  [36, 32, 58, 34, 46, 43],
] as const

function kind4(i: number): number {
  const [x, y] = [i & 1, (i >> 2) & 1]
  return x === 0 && y === 0 ? 0 : x === 1 && y === 1 ? 1 : 2
}

function kind8(i: number): number {
  const [x, y] = [i & 7, i >> 3]
  if (x % 4 === 0 && y % 4 === 0) return 0
  if (x % 2 === 1 && y % 2 === 1) return 1
  if (x % 4 === 2 && y % 4 === 2) return 2
  if ((x % 4 === 0 && y % 2 === 1) || (x % 2 === 1 && y % 4 === 0)) return 3
  return (x % 4 === 0 && y % 4 === 2) || (x % 4 === 2 && y % 4 === 0) ? 4 : 5
}

/** The weights of a picture's coefficients, by place; 16 is flat. */
export interface Weights {
  /** Intra luma, Cb and Cr of 4×4 blocks; luma of 8×8 blocks: line by line. */
  readonly four: readonly Uint8Array[]
  readonly eight: Uint8Array
}

export const flat: Weights = {
  four: [0, 1, 2].map(() => new Uint8Array(16).fill(16)),
  eight: new Uint8Array(64).fill(16),
}

/** LevelScale (8.5.9): by QP % 6, for each place. */
export const scales4 = (weights: Uint8Array): Int32Array[] =>
  adjust4.map((a) => Int32Array.from({ length: 16 }, (_, i) => weights[i]! * a[kind4(i)]!))
export const scales8 = (weights: Uint8Array): Int32Array[] =>
  adjust8.map((a) => Int32Array.from({ length: 64 }, (_, i) => weights[i]! * a[kind8(i)]!))

/** QPc by qPI from 30 on (table 8-15). */
const chromaQps = [29, 30, 31, 32, 32, 33, 34, 34, 35, 35, 36, 36, 37, 37, 37, 38, 38, 38, 39, 39, 39, 39]

/** QP′c of a luma QP (8.5.8): `depth` is what a picture of more than 8 bits adds, six for each. */
export function chromaQp(qp: number, offset: number, depth: number): number {
  const i = Math.max(-depth, Math.min(51, qp + offset))
  return (i < 30 ? i : chromaQps[i - 30]!) + depth
}

/** The product of a coefficient and its scale, at the size that QP gives it: `six` bits are the fraction at QP 0. */
const scaled = (v: number, scale: number, per: number, six: number) =>
  per >= six ? (v * scale) << (per - six) : (v * scale + (1 << (six - 1 - per))) >> (six - per)

/** Scales the levels of a 4×4 block in place, from `from` on: 1 where its DC comes from elsewhere. */
export function dequantise4(c: Int32Array, scale: Int32Array, per: number, from: number): void {
  for (let i = from; i < 16; i++) if (c[i] !== 0) c[i] = scaled(c[i]!, scale[i]!, per, 4)
}

export function dequantise8(c: Int32Array, scale: Int32Array, per: number): void {
  for (let i = 0; i < 64; i++) if (c[i] !== 0) c[i] = scaled(c[i]!, scale[i]!, per, 6)
}

/** Transforms scaled coefficients of a 4×4 block back (8.5.12) and adds the prediction, into a plane. */
export function add4(
  c: Int32Array,
  predicted: Int32Array,
  from: number,
  width: number,
  plane: Uint16Array,
  at: number,
  stride: number,
  most: number,
): void {
  for (let i = 0; i < 16; i += 4) {
    const [a, b] = [c[i]! + c[i + 2]!, c[i]! - c[i + 2]!]
    const d = (c[i + 1]! >> 1) - c[i + 3]!
    const e = c[i + 1]! + (c[i + 3]! >> 1)
    c[i] = a + e
    c[i + 1] = b + d
    c[i + 2] = b - d
    c[i + 3] = a - e
  }
  for (let x = 0; x < 4; x++) {
    const [a, b] = [c[x]! + c[x + 8]!, c[x]! - c[x + 8]!]
    const d = (c[x + 4]! >> 1) - c[x + 12]!
    const e = c[x + 4]! + (c[x + 12]! >> 1)
    c[x] = a + e
    c[x + 4] = b + d
    c[x + 8] = b - d
    c[x + 12] = a - e
  }
  for (let y = 0; y < 4; y++)
    for (let x = 0; x < 4; x++) {
      const s = predicted[from + y * width + x]! + ((c[y * 4 + x]! + 32) >> 6)
      plane[at + y * stride + x] = s < 0 ? 0 : s > most ? most : s
    }
}

/** One pass of the 8×8 transform back over eight coefficients `step` apart (8.5.13). */
function back8(c: Int32Array, i: number, step: number): void {
  const [c0, c1, c2, c3] = [c[i]!, c[i + step]!, c[i + 2 * step]!, c[i + 3 * step]!]
  const [c4, c5, c6, c7] = [c[i + 4 * step]!, c[i + 5 * step]!, c[i + 6 * step]!, c[i + 7 * step]!]
  const a0 = c0 + c4
  const a2 = c0 - c4
  const a4 = (c2 >> 1) - c6
  const a6 = c2 + (c6 >> 1)
  const b0 = a0 + a6
  const b2 = a2 + a4
  const b4 = a2 - a4
  const b6 = a0 - a6
  const a1 = -c3 + c5 - c7 - (c7 >> 1)
  const a3 = c1 + c7 - c3 - (c3 >> 1)
  const a5 = -c1 + c7 + c5 + (c5 >> 1)
  const a7 = c3 + c5 + c1 + (c1 >> 1)
  const b1 = a1 + (a7 >> 2)
  const b7 = a7 - (a1 >> 2)
  const b3 = a3 + (a5 >> 2)
  const b5 = (a3 >> 2) - a5
  c[i] = b0 + b7
  c[i + step] = b2 + b5
  c[i + 2 * step] = b4 + b3
  c[i + 3 * step] = b6 + b1
  c[i + 4 * step] = b6 - b1
  c[i + 5 * step] = b4 - b3
  c[i + 6 * step] = b2 - b5
  c[i + 7 * step] = b0 - b7
}

/** As {@link add4}, for 8×8 blocks; the prediction is 64 values. */
export function add8(
  c: Int32Array,
  predicted: Int32Array,
  plane: Uint16Array,
  at: number,
  stride: number,
  most: number,
): void {
  for (let i = 0; i < 64; i += 8) back8(c, i, 1)
  for (let i = 0; i < 8; i++) back8(c, i, 8)
  for (let y = 0, i = 0, p = at; y < 8; y++, p += stride)
    for (let x = 0; x < 8; x++, i++) {
      const s = predicted[i]! + ((c[i]! + 32) >> 6)
      plane[p + x] = s < 0 ? 0 : s > most ? most : s
    }
}

/** Four values through the transform of DC coefficients, `step` apart. */
function hadamard4(c: Int32Array, i: number, step: number): void {
  const [c0, c1, c2, c3] = [c[i]!, c[i + step]!, c[i + 2 * step]!, c[i + 3 * step]!]
  const [a, b, d, e] = [c0 + c1, c0 - c1, c2 + c3, c2 - c3]
  c[i] = a + d
  c[i + step] = a - d
  c[i + 2 * step] = b - e
  c[i + 3 * step] = b + e
}

/** The transform of the sixteen luma DCs of a macroblock (8.5.10), the same both ways. */
export function lumaDc(c: Int32Array): void {
  for (let i = 0; i < 16; i += 4) hadamard4(c, i, 1)
  for (let i = 0; i < 4; i++) hadamard4(c, i, 4)
}

/** The transform of chroma DCs, two beside each other, two or four below (8.5.11.1), the same both ways. */
export function chromaDc(c: Int32Array, rows: number): void {
  for (let y = 0; y < rows; y++) {
    const [a, b] = [c[2 * y]!, c[2 * y + 1]!]
    c[2 * y] = a + b
    c[2 * y + 1] = a - b
  }
  for (let x = 0; x < 2; x++) {
    if (rows === 4) hadamard4(c, x, 2)
    else {
      const [a, b] = [c[x]!, c[x + 2]!]
      c[x] = a + b
      c[x + 2] = a - b
    }
  }
}

/** Scales transformed luma DCs in place; `scale` is that of the first place (8.5.10). */
export function dequantiseLumaDc(c: Int32Array, scale: number, per: number): void {
  for (let i = 0; i < 16; i++) c[i] = scaled(c[i]!, scale, per, 6)
}

/** The same for chroma (8.5.11.2); in 4:2:2, `scale` and `per` are those of QP + 3. */
export function dequantiseChromaDc(c: Int32Array, rows: number, scale: number, per: number): void {
  if (rows === 4) for (let i = 0; i < 8; i++) c[i] = scaled(c[i]!, scale, per, 6)
  else for (let i = 0; i < 4; i++) c[i] = ((c[i]! * scale) << per) >> 5
}

/** The 4×4 transform forth, in place. */
export function forward4(c: Int32Array): void {
  for (let n = 0; n < 2; n++) {
    const step = n === 0 ? 1 : 4
    for (let k = 0; k < 4; k++) {
      const i = n === 0 ? k * 4 : k
      const [c0, c1, c2, c3] = [c[i]!, c[i + step]!, c[i + 2 * step]!, c[i + 3 * step]!]
      const [a, b, d, e] = [c0 + c3, c1 + c2, c1 - c2, c0 - c3]
      c[i] = a + b
      c[i + step] = 2 * e + d
      c[i + 2 * step] = a - b
      c[i + 3 * step] = e - 2 * d
    }
  }
}

function forth8(c: Int32Array, i: number, step: number): void {
  const [c0, c1, c2, c3] = [c[i]!, c[i + step]!, c[i + 2 * step]!, c[i + 3 * step]!]
  const [c4, c5, c6, c7] = [c[i + 4 * step]!, c[i + 5 * step]!, c[i + 6 * step]!, c[i + 7 * step]!]
  const [s07, s16, s25, s34] = [c0 + c7, c1 + c6, c2 + c5, c3 + c4]
  const [a0, a1, a2, a3] = [s07 + s34, s16 + s25, s07 - s34, s16 - s25]
  const [d07, d16, d25, d34] = [c0 - c7, c1 - c6, c2 - c5, c3 - c4]
  const a4 = d16 + d25 + d07 + (d07 >> 1)
  const a5 = d07 - d34 - d25 - (d25 >> 1)
  const a6 = d07 + d34 - d16 - (d16 >> 1)
  const a7 = d16 - d25 + d34 + (d34 >> 1)
  c[i] = a0 + a1
  c[i + step] = a4 + (a7 >> 2)
  c[i + 2 * step] = a2 + (a3 >> 1)
  c[i + 3 * step] = a5 + (a6 >> 2)
  c[i + 4 * step] = a0 - a1
  c[i + 5 * step] = a6 - (a5 >> 2)
  c[i + 6 * step] = (a2 >> 1) - a3
  c[i + 7 * step] = (a4 >> 2) - a7
}

/** The 8×8 transform forth, in place. */
export function forward8(c: Int32Array): void {
  for (let i = 0; i < 64; i += 8) forth8(c, i, 1)
  for (let i = 0; i < 8; i++) forth8(c, i, 8)
}

/** What a coefficient is multiplied by before its bits are taken off, by QP % 6, for each place. */
export const factors4 = [
  [13107, 5243, 8066],
  [11916, 4660, 7490],
  [10082, 4194, 6554],
  [9362, 3647, 5825],
  [8192, 3355, 5243],
  [7282, 2893, 4559],
].map((f) => Int32Array.from({ length: 16 }, (_, i) => f[kind4(i)]!))

export const factors8 = [
  [13107, 11428, 20972, 12222, 16777, 15481],
  [11916, 10826, 19174, 11058, 14980, 14290],
  [10082, 8943, 15978, 9675, 12710, 11985],
  [9362, 8228, 14913, 8931, 11984, 11259],
  [8192, 7346, 13159, 7740, 10486, 9777],
  [7282, 6428, 11570, 6830, 9118, 8640],
].map((f) => Int32Array.from({ length: 64 }, (_, i) => f[kind8(i)]!))

/**
 * A third of a step is added before bits are taken off: intra coefficients lie nearer to nought than the middle of a
 * step. Products of ten-bit pictures stay within 31 bits.
 */
function quantised(v: number, factor: number, third: number, bits: number): number {
  return v < 0 ? -((third - Math.imul(v, factor)) >> bits) : (Math.imul(v, factor) + third) >> bits
}

const thirdOf = (bits: number) => Math.floor((1 << bits) / 3)

/** Levels of a 4×4 block in place, from `from` on; gives whether any is not nought. */
export function quantise4(c: Int32Array, qp: number, from: number): boolean {
  const f = factors4[qp % 6]!
  const bits = 15 + Math.floor(qp / 6)
  const third = thirdOf(bits)
  let any = 0
  for (let i = from; i < 16; i++) any |= c[i] = quantised(c[i]!, f[i]!, third, bits)
  return any !== 0
}

export function quantise8(c: Int32Array, qp: number): boolean {
  const f = factors8[qp % 6]!
  const bits = 16 + Math.floor(qp / 6)
  const third = thirdOf(bits)
  let any = 0
  for (let i = 0; i < 64; i++) any |= c[i] = quantised(c[i]!, f[i]!, third, bits)
  return any !== 0
}

/**
 * Levels of transformed DCs in place: of luma with the transform's result halved, of chroma at its own QP (+ 3 in
 * 4:2:2).
 */
export function quantiseDc(c: Int32Array, count: number, qp: number): boolean {
  const f = factors4[qp % 6]![0]!
  const bits = 16 + Math.floor(qp / 6)
  const third = thirdOf(bits)
  let any = 0
  for (let i = 0; i < count; i++) any |= c[i] = quantised(c[i]!, f, third, bits)
  return any !== 0
}
