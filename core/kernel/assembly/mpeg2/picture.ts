import { setCosines } from './transform'

// What the slices of a picture of MPEG-2 have in common: PictureWork of codec/mpeg2/slice.ts.

/** Tables of codes by as many bits as the longest of a table has, `value << 8 | length`, 0 where there is none. */
export let coefficients: usize = 0
export let intraCoefficients: usize = 0
export let meansOfLuma: usize = 0
export let meansOfChroma: usize = 0
export let increments: usize = 0
export let kinds: usize = 0
export let patterns: usize = 0
export let motions: usize = 0
/** Weights: of intra blocks, luma and chroma, then of others. */
export let weights: usize = 0
/** Where coefficients go. */
export let scan: usize = 0
/** Scales of quantisers. */
export let scales: usize = 0

/** Places of planes: of the frame, of the one before, of the one after; 0 where there is none. */
export let planes: usize = 0
/** Macroblocks along and down, of this picture. */
export let columns: i32 = 0
export let rows: i32 = 0
export let chroma422: bool = false
/** 1 I, 2 P, 3 B. */
export let kind: i32 = 0
export let ofFrame: bool = false
/** 0, 1: the field that it is; 0 of frames. */
export let parity: i32 = 0
export let frameOnly: bool = false
export let concealed: bool = false
export let upperFirst: bool = false
/** Whether it is the second field of its frame. */
export let second: bool = false
export let meanBits: i32 = 0
/** By direction, along and down. */
export let reaches: usize = 0

function number(place: usize, i: i32): i32 {
  return load<i32>(place + <usize>(i << 2))
}

/** Where the tables are, in the order of codec/mpeg2/fastslices.ts. */
export function mpeg2Tables(place: usize): void {
  coefficients = number(place, 0)
  intraCoefficients = number(place, 1)
  meansOfLuma = number(place, 2)
  meansOfChroma = number(place, 3)
  increments = number(place, 4)
  kinds = number(place, 5)
  patterns = number(place, 6)
  motions = number(place, 7)
  weights = number(place, 8)
  scan = number(place, 9)
  scales = number(place, 10)
  setCosines(number(place, 11))
}

/** What its headers say, in the order of codec/mpeg2/fastslices.ts: nine planes, then numbers. */
export function mpeg2Picture(place: usize): void {
  planes = place
  columns = number(place, 9)
  rows = number(place, 10)
  chroma422 = number(place, 11) != 0
  kind = number(place, 12)
  ofFrame = number(place, 13) == 3
  parity = number(place, 13) == 2 ? 1 : 0
  frameOnly = number(place, 14) != 0
  concealed = number(place, 15) != 0
  upperFirst = number(place, 16) != 0
  second = number(place, 17) != 0
  meanBits = number(place, 18)
  reaches = place + 19 * 4
}
