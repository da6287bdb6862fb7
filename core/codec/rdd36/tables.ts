// Tables of SMPTE RDD 36:2015.

/** Where coefficients stand in a block, line by line, in the order they are coded: of frames … */
const frameScan = Uint8Array.of(
  ...[0, 1, 8, 9, 2, 3, 10, 11, 16, 17, 24, 25, 18, 19, 26, 27, 4, 5, 12, 20, 13, 6, 7, 14, 21, 28, 29, 22, 15, 23, 30],
  ...[31, 32, 33, 40, 48, 41, 34, 35, 42, 49, 56, 57, 50, 43, 36, 37, 44, 51, 58, 59, 52, 45, 38, 39, 46, 53, 60, 61],
  ...[54, 47, 55, 62, 63],
)

/** … and of fields. */
const fieldScan = Uint8Array.of(
  ...[0, 8, 1, 9, 16, 24, 17, 25, 2, 10, 3, 11, 18, 26, 19, 27, 32, 40, 33, 34, 41, 48, 56, 49, 42, 35, 43, 50, 57, 58],
  ...[51, 59, 4, 12, 5, 6, 13, 20, 28, 21, 14, 7, 15, 22, 29, 36, 44, 37, 30, 23, 31, 38, 45, 52, 60, 53, 46, 39, 47],
  ...[54, 61, 62, 55, 63],
)

export const scanOf = (fields: boolean) => (fields ? fieldScan : frameScan)

/**
 * A code: Golomb-Rice of an order up to so many zeros in front, exponential Golomb of an order
 * beyond. Exponential Golomb alone of order k is Rice of order k up to none, and then of order k + 1.
 */
export interface Code {
  readonly last: number
  readonly rice: number
  readonly exponent: number
}

const exponential = (k: number): Code => ({ last: 0, rice: k, exponent: k + 1 })
const combined = (last: number, rice: number, exponent: number): Code => ({ last, rice, exponent })

/** Of the first mean of a slice. */
export const firstMean = exponential(5)

/** Of further ones, by the size of the difference before. */
export const means: readonly Code[] = [exponential(0), exponential(1), combined(1, 2, 3), exponential(3)]

/** Of runs, by the run before. */
export const runs: readonly Code[] = [
  ...[combined(2, 0, 1), combined(2, 0, 1), combined(1, 0, 1), combined(1, 0, 1), exponential(0)],
  ...Array.from({ length: 4 }, () => combined(1, 1, 2)),
  ...Array.from({ length: 6 }, () => exponential(1)),
  exponential(2),
]

/** Of sizes less one, by that of the coefficient before. */
export const sizes: readonly Code[] = [
  ...[combined(2, 0, 2), combined(1, 0, 1), combined(2, 0, 1), exponential(0)],
  ...Array.from({ length: 4 }, () => exponential(1)),
  exponential(2),
]

/** What runs and sizes are taken to have been before the first of a slice. */
export const firstRun = 4
export const firstSize = 1

/** Frames a second by frame_rate_code. */
export const frameRates: readonly (readonly [number, number] | null)[] = [
  null,
  ...([
    ...[[24000, 1001] as const, [24, 1] as const, [25, 1] as const, [30000, 1001] as const, [30, 1] as const],
    ...[[50, 1] as const, [60000, 1001] as const, [60, 1] as const, [100, 1] as const, [120000, 1001] as const],
    [120, 1] as const,
  ] as const),
]

/** How wide to how high a picture is shown, by aspect_ratio_information; 1 says square pixels. */
export const shapes: readonly (readonly [number, number] | null)[] = [null, null, [4, 3], [16, 9]]
