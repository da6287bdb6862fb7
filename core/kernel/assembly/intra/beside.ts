import { chromaLines, countsOf, modesOf, ofField, paired, pairOfFields, slicePlace, width } from './picture'

// What is beside a macroblock and its blocks; the plain references are Grid and PairGrid of codec/h264-intra.

/** Neighbours of its slice: left 1, above 2, corner 4, above to the right 8. */
export function neighbours(mb: i32): i32 {
  if (!paired) return beside(mb, 0)
  const pairs = beside(mb >> 1, 1)
  if (!(mb & 1) || ofField) return pairs
  // the lower one of a pair of frame lines
  return 2 | (pairs & 1 ? 5 : 0)
}

/** The same of a macroblock's place, or, `shift` being 1, of a pair's. */
function beside(place: i32, shift: i32): i32 {
  const slice = load<u16>(slicePlace(place << shift))
  const x = place % width
  const above = place - width
  let there = 0
  if (x > 0 && load<u16>(slicePlace((place - 1) << shift)) == slice) there |= 1
  if (above < 0) return there
  if (load<u16>(slicePlace(above << shift)) == slice) there |= 2
  if (x > 0 && load<u16>(slicePlace((above - 1) << shift)) == slice) there |= 4
  if (x < width - 1 && load<u16>(slicePlace((above + 1) << shift)) == slice) there |= 8
  return there
}

/** How many of the pairs at the left and above, of the same slice, are of fields. */
export function fieldsBeside(mb: i32): i32 {
  const pair = mb >> 1
  const there = beside(pair, 1)
  return (there & 1 && pairOfFields(pair - 1) ? 1 : 0) + (there & 2 && pairOfFields(pair - width) ? 1 : 0)
}

/** The macroblock at the left of a line, and the line of that one, as macroblock × `lines` + line (table 6-4). */
export function leftOf(mb: i32, line: i32, lines: i32): i32 {
  if (!paired) return (mb - 1) * lines + line
  const lower = mb & 1
  const left = mb - lower - 2
  if (pairOfFields(left >> 1) == ofField) return (left + lower) * lines + line
  if (ofField) return left * lines + line * 2 + lower
  const inPair = line + lower * lines
  return (left + (inPair & 1)) * lines + (inPair >> 1)
}

/** The macroblock at the left of a macroblock's first line. */
export function leftMb(mb: i32): i32 {
  return paired ? leftOf(mb, 0, 16) >> 4 : mb - 1
}

export function aboveMb(mb: i32): i32 {
  if (!paired) return mb - width
  const lower = mb & 1
  if (lower && !ofField) return mb - 1
  const above = mb - lower - width * 2
  return lower || !ofField || !pairOfFields(above >> 1) ? above + 1 : above
}

/** Where the levels are counted of the block at the left of one of luma, in the first column. */
function leftLuma(mb: i32, block: i32): usize {
  const line = leftOf(mb, (block >> 2) * 4, 16)
  return countsOf(line >> 4) + <usize>((line & 12) | 3)
}

/** The same of one of chroma. */
function leftChroma(mb: i32, block: i32): usize {
  const line = leftOf(mb, (block & 6) * 2, chromaLines)
  const other = chromaLines == 8 ? line >> 3 : line >> 4
  const own = line & (chromaLines - 1)
  return countsOf(other) + <usize>((block & 24) + ((own >> 1) | 1))
}

/** Levels of the blocks beside a block; `none` where there is none. */
export function lumaLeft(mb: i32, there: i32, block: i32, none: i32): i32 {
  if (block & 3) return <i32>load<u8>(countsOf(mb) + block - 1)
  return there & 1 ? <i32>load<u8>(leftLuma(mb, block)) : none
}

export function lumaAbove(mb: i32, there: i32, block: i32, none: i32): i32 {
  if (block > 3) return <i32>load<u8>(countsOf(mb) + block - 4)
  return there & 2 ? <i32>load<u8>(countsOf(aboveMb(mb)) + block + 12) : none
}

export function chromaLeft(mb: i32, there: i32, block: i32, none: i32): i32 {
  if (block & 1) return <i32>load<u8>(countsOf(mb) + block - 1)
  return there & 1 ? <i32>load<u8>(leftChroma(mb, block)) : none
}

export function chromaAbove(mb: i32, there: i32, block: i32, none: i32): i32 {
  if ((block & 7) > 1) return <i32>load<u8>(countsOf(mb) + block - 2)
  return there & 2 ? <i32>load<u8>(countsOf(aboveMb(mb)) + block + (chromaLines == 8 ? 2 : 6)) : none
}

function context(left: i32, above: i32): i32 {
  if (left < 0) return above < 0 ? 0 : above
  return above < 0 ? left : (left + above + 1) >> 1
}

export function lumaContext(mb: i32, there: i32, block: i32): i32 {
  return context(lumaLeft(mb, there, block, -1), lumaAbove(mb, there, block, -1))
}

export function chromaContext(mb: i32, there: i32, block: i32): i32 {
  return context(chromaLeft(mb, there, block, -1), chromaAbove(mb, there, block, -1))
}

export function likelyMode(mb: i32, there: i32, block: i32): i32 {
  const own = modesOf(mb)
  let left = -1
  if (block & 3) left = <i32>load<i8>(own + block - 1)
  else if (there & 1) {
    const line = leftOf(mb, (block >> 2) * 4, 16)
    left = <i32>load<i8>(modesOf(line >> 4) + <usize>((line & 12) | 3))
  }
  let above = -1
  if (block > 3) above = <i32>load<i8>(own + block - 4)
  else if (there & 2) above = <i32>load<i8>(modesOf(aboveMb(mb)) + block + 12)
  return left < 0 || above < 0 ? 2 : min(left, above)
}

/** Neighbours of an 8×8 block, 0 … 3, and of a 4×4 block, by its place. */
export function there8(block: i32, mb: i32): i32 {
  const x = block & 1
  const y = block >> 1
  const right = y == 0 ? (x == 0 ? mb & 2 : mb & 8) : x == 0 ? 1 : 0
  return sides(x, y, mb) | (right ? 8 : 0)
}

export function there4(block: i32, mb: i32): i32 {
  const x = block & 3
  const y = block >> 2
  const right = y == 0 ? (x < 3 ? mb & 2 : mb & 8) : x != 3 && !(x == 1 && (y & 1) == 1) ? 1 : 0
  return sides(x, y, mb) | (right ? 8 : 0)
}

function sides(x: i32, y: i32, mb: i32): i32 {
  const left = x > 0 || mb & 1 ? 1 : 0
  const above = y > 0 || mb & 2 ? 2 : 0
  const corner = x > 0 ? above : y > 0 ? left : mb & 4
  return left | above | (corner ? 4 : 0)
}
