import { at as taken, end, fill, held, isOver, long, open, takeCode, word } from './bits'
import { put, putMean } from './transform'

// Parts of slices of SMPTE RDD 36 into planes; the plain reference is PlainSlices of codec/rdd36/blocks.ts.

/** Blocks of a part at most: of eight macroblocks. */
const mostBlocks = 32
/** Coefficients, block after block, column by column, 32 bits each. */
const coefficients: usize = memory.data(32 * 64 * 4, 16)
/** Of each block: 1 where it has more than its mean, 2 where it has some in its lower four lines, 3 of both. */
const used: usize = memory.data(32, 16)
/** Weights in the order of coefficients, scaled. */
const scaled: usize = memory.data(64 * 4, 16)

/** Tables of codes, one after the other; see {@link takeCode}. */
let first: usize = 0
let means: usize = 0
let runs: usize = 0
let sizes: usize = 0
/** Bytes of a table. */
const tableBytes = 257 * 4
/** Where coefficients go, column by column, and their weights, of luma and then chroma, both in their order. */
let scan: usize = 0
let weights: usize = 0
/** Places of planes and samples of their lines. */
let planes: usize = 0
let widths: usize = 0
let full: bool = false
let line: i32 = 0
let step: i32 = 1

function number(place: usize, i: i32): i32 {
  return load<i32>(place + <usize>(i << 2))
}

function tableOf(list: usize, i: i32): usize {
  return list + <usize>(i * tableBytes)
}

/** Begins a picture, by numbers in the order of codec/rdd36/fastblocks.ts. */
export function rdd36Picture(place: usize): void {
  first = number(place, 0)
  means = number(place, 1)
  runs = number(place, 2)
  sizes = number(place, 3)
  scan = number(place, 4)
  weights = number(place, 5)
  full = number(place, 6) != 0
  line = number(place, 7)
  step = number(place, 8)
  planes = place + 36
  widths = place + 48
}

/** Decodes part `k` of a slice, from its first byte to its last; false where it is damaged. */
export function rdd36Part(from: usize, size: i32, k: i32, column: i32, row: i32, count: i32, scale: i32): bool {
  const halved = k > 0 && !full
  const shift = halved ? 1 : 2
  const blocks = count << shift
  if (blocks > mostBlocks || !read(from, size, k, blocks, scale)) return false
  const width = number(widths, k)
  const apart = (width << 1) * step
  const plane = <usize>load<u32>(planes + <usize>(k << 2))
  for (let b = 0; b < blocks; b++) {
    const i = b & ((1 << shift) - 1)
    const right = halved ? 0 : k > 0 ? i >> 1 : i & 1
    const below = halved ? i : k > 0 ? i & 1 : i >> 1
    const x = ((column + (b >> shift)) << (halved ? 3 : 4)) + (right << 3)
    const y = line + ((row << 4) + (below << 3)) * step
    const block = coefficients + <usize>(b << 8)
    const to = plane + <usize>((y * width + x) << 1)
    const flags = load<u8>(used + <usize>b)
    if (flags == 0) putMean(block, to, apart)
    else put(block, flags > 1, to, apart)
  }
  return true
}

function setMean(block: i32, v: i32): void {
  store<i32>(coefficients + <usize>(block << 8), v * load<i32>(scaled))
}

function read(from: usize, size: i32, k: i32, blocks: i32, scale: i32): bool {
  memory.fill(coefficients, 0, <usize>(blocks << 8))
  memory.fill(used, 0, 32)
  const w = weights + <usize>(k == 0 ? 0 : 64)
  for (let i: usize = 0; i < 64; i++) store<i32>(scaled + (i << 2), <i32>load<u8>(w + i) * scale)
  open(from, size)
  let v = takeCode(first)
  if (v < 0) return false
  let mean = (v >> 1) ^ -(v & 1)
  setMean(0, mean)
  let on = 3
  let sign = 0
  for (let b = 1; b < blocks; b++) {
    v = takeCode(tableOf(means, min(on, 3)))
    if (v < 0) return false
    on = (v + 1) >> 1
    sign = v == 0 ? 0 : sign ^ (v & 1)
    mean += sign ? -on : on
    setMean(b, mean)
  }
  return further(blocks)
}

/** Where a table says what the next bits stand for. */
function entryOf(table: usize, bits: u64): i32 {
  return load<i32>(table + <usize>((bits >> 56) << 2))
}

/** Coefficients behind the means; most of the work, so that bits are taken by locals here. */
function further(blocks: i32): bool {
  // blocks are as many as a power of two
  const places = 31 - clz(blocks)
  const last = blocks << 6
  let bits = word
  let left = held
  let p = taken
  let run = 4
  let less = 1
  for (let k = blocks - 1; ;) {
    if (left < 24 || bits >> 56 == 0) {
      fill(p)
      if (word >> 56 == 0 && isOver()) return true
      bits = word
      left = held
    }
    const runTable = tableOf(runs, min(run, 15))
    let entry = entryOf(runTable, bits)
    if (entry == 0) {
      fill(p)
      entry = long(runTable)
      if (entry < 0) return false
      run = entry
      p = taken
      bits = word
      left = held
    } else {
      run = entry & 0xffff
      entry >>= 16
      p += entry
      left -= entry
      bits <<= <u64>entry
    }
    k += run + 1
    if (k >= last) return false
    const sizeTable = tableOf(sizes, min(less, 8))
    entry = entryOf(sizeTable, bits)
    if (entry == 0 || left < 9) {
      fill(p)
      less = takeCode(sizeTable)
      if (less < 0) return false
      p = taken
      bits = word
      left = held
      if (left < 1) {
        fill(p)
        bits = word
        left = held
      }
    } else {
      less = entry & 0xffff
      entry >>= 16
      p += entry
      left -= entry
      bits <<= <u64>entry
    }
    const negative = <i32>(bits >> 63)
    bits <<= 1
    left--
    p++
    if (p > end) return false
    const block = k & (blocks - 1)
    const i = k >> places
    const to = <i32>load<u8>(scan + <usize>i)
    const v = ((less + 1) ^ -negative) + negative
    store<i32>(coefficients + <usize>(((block << 6) + to) << 2), v * load<i32>(scaled + <usize>(i << 2)))
    const flags = used + <usize>block
    store<u8>(flags, load<u8>(flags) | (<u8>(1 + ((to >> 2) & 1))))
  }
  return false
}
