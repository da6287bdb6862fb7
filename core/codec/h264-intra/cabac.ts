import type { SliceReader } from './slicebits'

// The arithmetic decoder of ITU-T H.264 9.3.1.2 and 9.3.3.2, and the states of its contexts in I slices.

/** What m and n of contexts are from one on, in pairs (tables 9-12 to 9-33, I slices). */
const starts: readonly (readonly [from: number, pairs: readonly number[]])[] = [
  // mb_type
  [3, [20, -15, 2, 54, 3, 74, -28, 127, -23, 104, -6, 53, -1, 54, 7, 51]],
  // mb_qp_delta, intra_chroma_pred_mode, prev_intra_pred_mode_flag, rem_intra_pred_mode, mb_field_decoding_flag
  [60, [0, 41, 0, 63, 0, 63, 0, 63, -9, 83, 4, 86, 0, 97, -7, 72, 13, 41, 3, 62, 0, 11, 1, 55, 0, 69]],
  // coded_block_pattern
  [
    73,
    [
      ...[-17, 127, -13, 102, 0, 82, -7, 74, -21, 107, -27, 127, -31, 127, -24, 127, -18, 95, -27, 127, -21, 114],
      ...[-30, 127],
    ],
  ],
  // coded_block_flag
  [
    85,
    [
      ...[
        -17, 123, -12, 115, -16, 122, -11, 115, -12, 63, -2, 68, -15, 84, -13, 104, -3, 70, -8, 93, -10, 90, -30, 127,
      ],
      ...[-1, 74, -6, 97, -7, 91, -20, 127, -4, 56, -5, 82, -7, 76, -22, 125],
    ],
  ],
  // significant_coeff_flag, of frames
  [
    105,
    [
      ...[-7, 93, -11, 87, -3, 77, -5, 71, -4, 63, -4, 68, -12, 84, -7, 62, -7, 65, 8, 61, 5, 56, -2, 66, 1, 64, 0, 61],
      ...[
        -2, 78, 1, 50, 7, 52, 10, 35, 0, 44, 11, 38, 1, 45, 0, 46, 5, 44, 31, 17, 1, 51, 7, 50, 28, 19, 16, 33, 14, 62,
      ],
      ...[-13, 108, -15, 100, -13, 101, -13, 91, -12, 94, -10, 88, -16, 84, -10, 86, -7, 83, -13, 87, -19, 94, 1, 70],
      ...[
        0, 72, -5, 74, 18, 59, -8, 102, -15, 100, 0, 95, -4, 75, 2, 72, -11, 75, -3, 71, 15, 46, -13, 69, 0, 62, 0, 65,
      ],
      ...[21, 37, -15, 72, 9, 57, 16, 54, 0, 62, 12, 72],
    ],
  ],
  // last_significant_coeff_flag, of frames
  [
    166,
    [
      ...[
        24, 0, 15, 9, 8, 25, 13, 18, 15, 9, 13, 19, 10, 37, 12, 18, 6, 29, 20, 33, 15, 30, 4, 45, 1, 58, 0, 62, 7, 61,
      ],
      ...[
        12, 38, 11, 45, 15, 39, 11, 42, 13, 44, 16, 45, 12, 41, 10, 49, 30, 34, 18, 42, 10, 55, 17, 51, 17, 46, 0, 89,
      ],
      ...[26, -19, 22, -17, 26, -17, 30, -25, 28, -20, 33, -23, 37, -27, 33, -23, 40, -28, 38, -17, 33, -11, 40, -15],
      ...[41, -6, 38, 1, 41, 17, 30, -6, 27, 3, 26, 22, 37, -16, 35, -4, 38, -8, 38, -3, 37, 3, 38, 5, 42, 0, 35, 16],
      ...[39, 22, 14, 48, 27, 37, 21, 60, 12, 68, 2, 97],
    ],
  ],
  // coeff_abs_level_minus1
  [
    227,
    [
      ...[-3, 71, -6, 42, -5, 50, -3, 54, -2, 62, 0, 58, 1, 63, -2, 72, -1, 74, -9, 91, -5, 67, -5, 27, -3, 39, -2, 44],
      ...[0, 46, -16, 64, -8, 68, -10, 78, -6, 77, -10, 86, -12, 92, -15, 55, -10, 60, -6, 62, -4, 65, -12, 73, -8, 76],
      ...[-7, 80, -9, 88, -17, 110, -11, 97, -20, 84, -11, 79, -6, 73, -4, 74, -13, 86, -13, 96, -11, 97, -19, 117],
      ...[-8, 78, -5, 33, -4, 48, -2, 53, -3, 62, -13, 71, -10, 79, -12, 86, -13, 90, -14, 97],
    ],
  ],
  // significant_coeff_flag, of fields
  [
    277,
    [
      ...[-6, 93, -6, 84, -8, 79, 0, 66, -1, 71, 0, 62, -2, 60, -2, 59, -5, 75, -3, 62, -4, 58, -9, 66, -1, 79, 0, 71],
      ...[3, 68, 10, 44, -7, 62, 15, 36, 14, 40, 16, 27, 12, 29, 1, 44, 20, 36, 18, 32, 5, 42, 1, 48, 10, 62, 17, 46],
      ...[9, 64, -12, 104, -11, 97, -16, 96, -7, 88, -8, 85, -7, 85, -9, 85, -13, 88, 4, 66, -3, 77, -3, 76, -6, 76],
      ...[10, 58, -1, 76, -1, 83, -7, 99, -14, 95, 2, 95, 0, 76, -5, 74, 0, 70, -11, 75, 1, 68, 0, 65, -14, 73, 3, 62],
      ...[4, 62, -1, 68, -13, 75, 11, 55, 5, 64, 12, 70],
    ],
  ],
  // last_significant_coeff_flag, of fields
  [
    338,
    [
      ...[15, 6, 6, 19, 7, 16, 12, 14, 18, 13, 13, 11, 13, 15, 15, 16, 12, 23, 13, 23, 15, 20, 14, 26, 14, 44, 17, 40],
      ...[17, 47, 24, 17, 21, 21, 25, 22, 31, 27, 22, 29, 19, 35, 14, 50, 10, 57, 7, 63, -2, 77, -4, 82, -3, 94, 9, 69],
      ...[
        -12, 109, 36, -35, 36, -34, 32, -26, 37, -30, 44, -32, 34, -18, 34, -15, 40, -15, 33, -7, 35, -5, 33, 0, 38, 2,
      ],
      ...[33, 13, 23, 35, 13, 58, 29, -3, 26, 0, 22, 30, 31, -7, 35, -15, 34, -3, 34, 3, 36, -1, 34, 5, 32, 11, 35, 5],
      ...[34, 12, 39, 11, 30, 29, 34, 26, 29, 39, 19, 66],
    ],
  ],
  // transform_size_8x8_flag; then of 8×8 blocks: significant_coeff_flag and last_significant_coeff_flag of frames,
  // coeff_abs_level_minus1
  [
    399,
    [
      ...[31, 21, 31, 31, 25, 50],
      ...[-17, 120, -20, 112, -18, 114, -11, 85, -15, 92, -14, 89, -26, 71, -15, 81, -14, 80, 0, 68, -14, 70, -24, 56],
      ...[-23, 68, -24, 50, -11, 74, 23, -13, 26, -13, 40, -15, 49, -14, 44, 3, 45, 6, 44, 34, 33, 54, 19, 82],
      ...[-3, 75, -1, 23, 1, 34, 1, 43, 0, 54, -2, 55, 0, 61, 1, 64, 0, 68, -9, 92],
    ],
  ],
  // significant_coeff_flag and last_significant_coeff_flag of 8×8 blocks of fields
  [
    436,
    [
      ...[-14, 106, -13, 97, -15, 90, -12, 90, -18, 88, -10, 73, -9, 79, -14, 86, -10, 73, -10, 70, -10, 69, -5, 66],
      ...[-9, 64, -5, 58, 2, 59, 21, -10, 24, -11, 28, -8, 28, -1, 29, 3, 29, 9, 35, 20, 29, 36, 14, 67],
    ],
  ],
]

/** Contexts that I slices have. */
export const contexts = 460

/** States of all contexts at the start of a slice (9.3.1.1): twice pStateIdx, and valMPS. */
export function contextsAt(qp: number): Uint8Array {
  const out = new Uint8Array(contexts)
  const q = Math.max(0, Math.min(51, qp))
  for (const [from, pairs] of starts)
    for (let i = 0; i < pairs.length; i += 2) {
      const state = Math.max(1, Math.min(126, ((pairs[i]! * q) >> 4) + pairs[i + 1]!))
      out[from + i / 2] = state <= 63 ? (63 - state) * 2 : (state - 64) * 2 + 1
    }
  return out
}

/** rangeTabLPS (table 9-44), four for each state. */
export const lesserRange = Uint8Array.of(
  ...[128, 176, 208, 240, 128, 167, 197, 227, 128, 158, 187, 216, 123, 150, 178, 205, 116, 142, 169, 195],
  ...[111, 135, 160, 185, 105, 128, 152, 175, 100, 122, 144, 166, 95, 116, 137, 158, 90, 110, 130, 150],
  ...[85, 104, 123, 142, 81, 99, 117, 135, 77, 94, 111, 128, 73, 89, 105, 122, 69, 85, 100, 116, 66, 80, 95, 110],
  ...[62, 76, 90, 104, 59, 72, 86, 99, 56, 69, 81, 94, 53, 65, 77, 89, 51, 62, 73, 85, 48, 59, 69, 80, 46, 56, 66, 76],
  ...[43, 53, 63, 72, 41, 50, 59, 69, 39, 48, 56, 65, 37, 45, 54, 62, 35, 43, 51, 59, 33, 41, 48, 56, 32, 39, 46, 53],
  ...[30, 37, 43, 50, 29, 35, 41, 48, 27, 33, 39, 45, 26, 31, 37, 43, 24, 30, 35, 41, 23, 28, 33, 39, 22, 27, 32, 37],
  ...[21, 26, 30, 35, 20, 24, 29, 33, 19, 23, 27, 31, 18, 22, 26, 30, 17, 21, 25, 28, 16, 20, 23, 27, 15, 19, 22, 25],
  ...[14, 18, 21, 24, 14, 17, 20, 23, 13, 16, 19, 22, 12, 15, 18, 21, 12, 14, 17, 20, 11, 14, 16, 19, 11, 13, 15, 18],
  ...[10, 12, 15, 17, 10, 12, 14, 16, 9, 11, 13, 15, 9, 11, 12, 14, 8, 10, 12, 14, 8, 9, 11, 13, 7, 9, 11, 12],
  ...[7, 9, 10, 12, 7, 8, 10, 11, 6, 8, 9, 11, 6, 7, 9, 10, 6, 7, 8, 9, 2, 2, 2, 2],
)

/** transIdxLPS (table 9-45). */
export const lesserNext = Uint8Array.of(
  ...[0, 0, 1, 2, 2, 4, 4, 5, 6, 7, 8, 9, 9, 11, 11, 12, 13, 13, 15, 15, 16, 16, 18, 18, 19, 19, 21, 21, 22, 22, 23],
  ...[24, 24, 25, 26, 26, 27, 27, 28, 29, 29, 30, 30, 30, 31, 32, 32, 33, 33, 33, 34, 34, 35, 35, 35, 36, 36, 36],
  ...[37, 37, 37, 38, 38, 63],
)

/** Bins of a slice, one after the other. */
export interface Bins {
  /** A bin of a context. */
  bin(context: number): number
  /** A bin that is as likely as not. */
  bypass(): number
  /** The bin that ends a slice, or says that plain samples follow. */
  terminate(): number
  /** Moves to the whole byte at which plain samples begin. */
  align(): void
  /** Begins anew, at the start of a slice's macroblocks or behind plain samples (9.3.1.2). */
  begin(): void
  fault(element: string): never
}

/** Decodes bins of a slice (9.3.3.2). */
export class CabacDecoder implements Bins {
  private range = 510
  private offset = 0
  private readonly states: Uint8Array

  constructor(
    private readonly r: SliceReader,
    qp: number,
  ) {
    this.states = contextsAt(qp)
    // cabac_alignment_one_bit
    r.align()
    this.begin()
  }

  begin(): void {
    this.range = 510
    this.offset = this.r.u(9)
  }

  bin(context: number): number {
    const state = this.states[context]!
    const lesser = lesserRange[(state >> 1) * 4 + ((this.range >> 6) & 3)]!
    this.range -= lesser
    let bin = state & 1
    if (this.offset >= this.range) {
      bin ^= 1
      this.offset -= this.range
      this.range = lesser
      const most = state < 2 ? bin : state & 1
      this.states[context] = lesserNext[state >> 1]! * 2 + most
      this.renormalise()
      return bin
    }
    if (state < 124) this.states[context] = state + 2
    if (this.range < 256) this.renormalise()
    return bin
  }

  align(): void {
    this.r.align()
  }

  fault(element: string): never {
    this.r.fault(element)
  }

  bypass(): number {
    this.offset = (this.offset << 1) | this.r.u(1)
    if (this.offset < this.range) return 0
    this.offset -= this.range
    return 1
  }

  terminate(): number {
    this.range -= 2
    // the nine bits that are held end where the encoder's last ones do
    if (this.offset >= this.range) return 1
    if (this.range < 256) this.renormalise()
    return 0
  }

  private renormalise(): void {
    const shift = Math.clz32(this.range) - 23
    this.range <<= shift
    this.offset = (this.offset << shift) | this.r.u(shift)
  }
}
