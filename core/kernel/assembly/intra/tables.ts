import { ofField } from './picture'

// Tables that come with each picture, since they are made elsewhere: where each begins among them, in bytes. The
// order is that of codec/h264-intra/tables.ts.

let tables: usize = 0

export function intraTables(place: usize): void {
  tables = place
}

/** Codes of 32 bits, the length in the upper half: coeff_token of four kinds, of chroma DC; total_zeros; run_before. */
export function tokenCode(table: i32, i: i32): u32 {
  return load<u32>(tables + <usize>((table * 68 + i) << 2))
}

export function zerosCode(dc: i32, total: i32, zeros: i32): u32 {
  const list = dc == 0 ? 408 : dc == 1 ? 648 : 696
  return load<u32>(tables + <usize>((list + (total - 1) * 16 + zeros) << 2))
}

export function runCode(left: i32, run: i32): u32 {
  return load<u32>(tables + <usize>((808 + (left - 1) * 16 + run) << 2))
}

/** Then bytes: the scan of blocks of sixteen and those of the four parts of 64, of frames, of fields; chroma DC's. */
const bytes: i32 = 920 * 4

function ofScan(): i32 {
  return ofField ? bytes + 80 : bytes
}

export function scan4(): usize {
  return tables + <usize>ofScan()
}

export function scan8(part: i32): usize {
  return tables + <usize>(ofScan() + 16 + part * 16)
}

export function scanDc(): usize {
  return tables + <usize>(bytes + 160)
}

/** Code numbers of coded_block_pattern by its value. */
export function patternCode(pattern: i32): i32 {
  return <i32>load<u8>(tables + <usize>(bytes + 168 + pattern))
}

/** Then numbers of 32 bits: factors of 4×4 and 8×8 blocks by QP % 6, then scales of them. */
const numbers: i32 = bytes + 224

export function factors4(qp: i32): usize {
  return tables + <usize>(numbers + (qp % 6) * 64)
}

export function factors8(qp: i32): usize {
  return tables + <usize>(numbers + 384 + (qp % 6) * 256)
}

/** Of a plane: luma, Cb, Cr. */
export function scales4(plane: i32, qp: i32): usize {
  return tables + <usize>(numbers + 1920 + plane * 384 + (qp % 6) * 64)
}

export function scales8(qp: i32): usize {
  return tables + <usize>(numbers + 3072 + (qp % 6) * 256)
}

/** QP′ of a plane of chroma by QP′ of luma, and what a mode must be better by, by QP′. */
export function chromaQp(plane: i32, qp: i32): i32 {
  return load<i32>(tables + <usize>(numbers + 4608 + (plane - 1) * 256 + qp * 4))
}

export function penalty(qp: i32): i32 {
  return load<i32>(tables + <usize>(numbers + 5120 + qp * 4))
}

/** Then what is read by: for every pattern of bits, a number times 32 and a length, 16 bits each. */
const patterns: i32 = numbers + 5376

export function tokenAt(table: i32, pattern: u32): u32 {
  return load<u16>(tables + <usize>(patterns + table * 131072) + <usize>(pattern << 1))
}

/** By nine bits. */
export function zerosAt(dc: i32, total: i32, pattern: u32): u32 {
  const list = (dc == 0 ? 0 : dc == 1 ? 15 : 18) + total - 1
  return load<u16>(tables + <usize>(patterns + 786432 + list * 1024) + <usize>(pattern << 1))
}

/** By eleven bits. */
export function runAt(left: i32, pattern: u32): u32 {
  return load<u16>(tables + <usize>(patterns + 812032 + (left - 1) * 4096) + <usize>(pattern << 1))
}

/** Then values of coded_block_pattern by their code numbers. */
export function patternAt(number: i32): i32 {
  return <i32>load<u8>(tables + <usize>(patterns + 840704 + number))
}
