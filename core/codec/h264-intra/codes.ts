// The variable-length codes of CAVLC (ITU-T H.264 tables 9-5, 9-7, 9-8, 9-9 and 9-10), each as its length and its bits.

/** One code: how many bits, and which. */
export interface Code {
  readonly length: number
  readonly bits: number
}

/** Codes by a number; where the length is zero there is none. */
export type Codes = readonly Code[]

const codes = (lengths: readonly number[], bits: readonly number[]): Codes =>
  lengths.map((length, i) => ({ length, bits: bits[i]! }))

// coeff_token by 4 × total coefficients + trailing ones

const tokensUpTo1 = codes(
  [
    ...[1, 0, 0, 0, 6, 2, 0, 0, 8, 6, 3, 0, 9, 8, 7, 5, 10, 9, 8, 6, 11, 10, 9, 7, 13, 11, 10, 8, 13, 13, 11, 9],
    ...[13, 13, 13, 10, 14, 14, 13, 11, 14, 14, 14, 13, 15, 15, 14, 14, 15, 15, 15, 14, 16, 15, 15, 15],
    ...[16, 16, 16, 15, 16, 16, 16, 16, 16, 16, 16, 16],
  ],
  [
    ...[1, 0, 0, 0, 5, 1, 0, 0, 7, 4, 1, 0, 7, 6, 5, 3, 7, 6, 5, 3, 7, 6, 5, 4, 15, 6, 5, 4, 11, 14, 5, 4],
    ...[8, 10, 13, 4, 15, 14, 9, 4, 11, 10, 13, 12, 15, 14, 9, 12, 11, 10, 13, 8, 15, 1, 9, 12],
    ...[11, 14, 13, 8, 7, 10, 9, 12, 4, 6, 5, 8],
  ],
)

const tokensUpTo3 = codes(
  [
    ...[2, 0, 0, 0, 6, 2, 0, 0, 6, 5, 3, 0, 7, 6, 6, 4, 8, 6, 6, 4, 8, 7, 7, 5, 9, 8, 8, 6, 11, 9, 9, 6],
    ...[11, 11, 11, 7, 12, 11, 11, 9, 12, 12, 12, 11, 12, 12, 12, 11, 13, 13, 13, 12, 13, 13, 13, 13],
    ...[13, 14, 13, 13, 14, 14, 14, 13, 14, 14, 14, 14],
  ],
  [
    ...[3, 0, 0, 0, 11, 2, 0, 0, 7, 7, 3, 0, 7, 10, 9, 5, 7, 6, 5, 4, 4, 6, 5, 6, 7, 6, 5, 8, 15, 6, 5, 4],
    ...[11, 14, 13, 4, 15, 10, 9, 4, 11, 14, 13, 12, 8, 10, 9, 8, 15, 14, 13, 12, 11, 10, 9, 12],
    ...[7, 11, 6, 8, 9, 8, 10, 1, 7, 6, 5, 4],
  ],
)

const tokensUpTo7 = codes(
  [
    ...[4, 0, 0, 0, 6, 4, 0, 0, 6, 5, 4, 0, 6, 5, 5, 4, 7, 5, 5, 4, 7, 5, 5, 4, 7, 6, 6, 4, 7, 6, 6, 4],
    ...[8, 7, 7, 5, 8, 8, 7, 6, 9, 8, 8, 7, 9, 9, 8, 8, 9, 9, 9, 8, 10, 9, 9, 9, 10, 10, 10, 10],
    ...[10, 10, 10, 10, 10, 10, 10, 10],
  ],
  [
    ...[15, 0, 0, 0, 15, 14, 0, 0, 11, 15, 13, 0, 8, 12, 14, 12, 15, 10, 11, 11, 11, 8, 9, 10, 9, 14, 13, 9],
    ...[8, 10, 9, 8, 15, 14, 13, 13, 11, 14, 10, 12, 15, 10, 13, 12, 11, 14, 9, 12, 8, 10, 13, 8],
    ...[13, 7, 9, 12, 9, 12, 11, 10, 5, 8, 7, 6, 1, 4, 3, 2],
  ],
)

const tokensFrom8: Codes = Array.from({ length: 68 }, (_, i) => {
  const [total, ones] = [i >> 2, i & 3]
  if (ones > Math.min(3, total)) return { length: 0, bits: 0 }
  return { length: 6, bits: total === 0 ? 3 : ((total - 1) << 2) | ones }
})

/** coeff_token of blocks of luma and of chroma AC, by what their neighbours hold: 0 … 1, 2 … 3, 4 … 7, 8 and more. */
export const tokens = [tokensUpTo1, tokensUpTo3, tokensUpTo7, tokensFrom8] as const

/** coeff_token of chroma DC, 4:2:0. */
export const tokensDc420 = codes(
  [2, 0, 0, 0, 6, 1, 0, 0, 6, 6, 3, 0, 6, 7, 7, 6, 6, 8, 8, 7],
  [1, 0, 0, 0, 7, 1, 0, 0, 4, 6, 1, 0, 3, 3, 2, 5, 2, 3, 2, 0],
)

/** coeff_token of chroma DC, 4:2:2. */
export const tokensDc422 = codes(
  [
    ...[1, 0, 0, 0, 7, 2, 0, 0, 7, 7, 3, 0, 9, 7, 7, 5, 9, 9, 7, 6, 10, 10, 9, 7],
    ...[11, 11, 10, 7, 12, 12, 11, 10, 13, 12, 12, 11],
  ],
  [
    ...[1, 0, 0, 0, 15, 1, 0, 0, 14, 13, 1, 0, 7, 12, 11, 1, 6, 5, 10, 1, 7, 6, 4, 9],
    ...[7, 6, 5, 8, 7, 6, 5, 4, 7, 5, 4, 4],
  ],
)

/** total_zeros of 4×4 blocks, by total coefficients less one. */
export const zeros4x4: readonly Codes[] = [
  codes([1, 3, 3, 4, 4, 5, 5, 6, 6, 7, 7, 8, 8, 9, 9, 9], [1, 3, 2, 3, 2, 3, 2, 3, 2, 3, 2, 3, 2, 3, 2, 1]),
  codes([3, 3, 3, 3, 3, 4, 4, 4, 4, 5, 5, 6, 6, 6, 6], [7, 6, 5, 4, 3, 5, 4, 3, 2, 3, 2, 3, 2, 1, 0]),
  codes([4, 3, 3, 3, 4, 4, 3, 3, 4, 5, 5, 6, 5, 6], [5, 7, 6, 5, 4, 3, 4, 3, 2, 3, 2, 1, 1, 0]),
  codes([5, 3, 4, 4, 3, 3, 3, 4, 3, 4, 5, 5, 5], [3, 7, 5, 4, 6, 5, 4, 3, 3, 2, 2, 1, 0]),
  codes([4, 4, 4, 3, 3, 3, 3, 3, 4, 5, 4, 5], [5, 4, 3, 7, 6, 5, 4, 3, 2, 1, 1, 0]),
  codes([6, 5, 3, 3, 3, 3, 3, 3, 4, 3, 6], [1, 1, 7, 6, 5, 4, 3, 2, 1, 1, 0]),
  codes([6, 5, 3, 3, 3, 2, 3, 4, 3, 6], [1, 1, 5, 4, 3, 3, 2, 1, 1, 0]),
  codes([6, 4, 5, 3, 2, 2, 3, 3, 6], [1, 1, 1, 3, 3, 2, 2, 1, 0]),
  codes([6, 6, 4, 2, 2, 3, 2, 5], [1, 0, 1, 3, 2, 1, 1, 1]),
  codes([5, 5, 3, 2, 2, 2, 4], [1, 0, 1, 3, 2, 1, 1]),
  codes([4, 4, 3, 3, 1, 3], [0, 1, 1, 2, 1, 3]),
  codes([4, 4, 2, 1, 3], [0, 1, 1, 1, 1]),
  codes([3, 3, 1, 2], [0, 1, 1, 1]),
  codes([2, 2, 1], [0, 1, 1]),
  codes([1, 1], [0, 1]),
]

/** total_zeros of chroma DC, 4:2:0. */
export const zerosDc420: readonly Codes[] = [
  codes([1, 2, 3, 3], [1, 1, 1, 0]),
  codes([1, 2, 2], [1, 1, 0]),
  codes([1, 1], [1, 0]),
]

/** total_zeros of chroma DC, 4:2:2. */
export const zerosDc422: readonly Codes[] = [
  codes([1, 3, 3, 4, 4, 4, 5, 5], [1, 2, 3, 2, 3, 1, 1, 0]),
  codes([3, 2, 3, 3, 3, 3, 3], [0, 1, 1, 4, 5, 6, 7]),
  codes([3, 3, 2, 2, 3, 3], [0, 1, 1, 2, 6, 7]),
  codes([3, 2, 2, 2, 3], [6, 0, 1, 2, 7]),
  codes([2, 2, 2, 2], [0, 1, 2, 3]),
  codes([2, 2, 1], [0, 1, 1]),
  codes([1, 1], [0, 1]),
]

/** run_before, by zeros left less one; the last is for seven and more. */
export const runs: readonly Codes[] = [
  codes([1, 1], [1, 0]),
  codes([1, 2, 2], [1, 1, 0]),
  codes([2, 2, 2, 2], [3, 2, 1, 0]),
  codes([2, 2, 2, 3, 3], [3, 2, 1, 1, 0]),
  codes([2, 2, 3, 3, 3, 3], [3, 2, 3, 2, 1, 0]),
  codes([2, 3, 3, 3, 3, 3, 3], [3, 0, 1, 3, 2, 5, 4]),
  codes([3, 3, 3, 3, 3, 3, 3, 4, 5, 6, 7, 8, 9, 10, 11], [7, 6, 5, 4, 3, 2, 1, 1, 1, 1, 1, 1, 1, 1, 1]),
]

/** coded_block_pattern of intra macroblocks by its code number, 4:2:0 and 4:2:2 (table 9-4). */
export const patterns = Uint8Array.of(
  ...[47, 31, 15, 0, 23, 27, 29, 30, 7, 11, 13, 14, 39, 43, 45, 46],
  ...[16, 3, 5, 10, 12, 19, 21, 26, 28, 35, 37, 42, 44, 1, 2, 4],
  ...[8, 17, 18, 20, 24, 6, 9, 22, 25, 32, 33, 34, 36, 40, 38, 41],
)

/** Code numbers of coded_block_pattern by its value. */
export const patternCodes = Uint8Array.from({ length: 48 }, (_, v) => patterns.indexOf(v))
