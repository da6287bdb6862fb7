// The picture that is being coded and what is known of its macroblocks; the plain reference is
// codec/h264-intra/grid.ts. Everything stands in memory that is laid out for one picture: planes of 16-bit samples,
// then arrays by macroblock.

/** Source and rebuilt planes, the first sample of the frame or field of each. */
let source0: usize = 0
let source1: usize = 0
let source2: usize = 0
let rebuilt0: usize = 0
let rebuilt1: usize = 0
let rebuilt2: usize = 0
/** Samples from one line to the next. */
let strideLuma: i32 = 0
let strideChroma: i32 = 0
export let width: i32 = 0
export let chromaLines: i32 = 0
export let most: i32 = 0
/** What the depth adds to QPs. */
export let extra: i32 = 0
let kinds: usize = 0
let counts: usize = 0
let modes: usize = 0
let qps: usize = 0
let slices: usize = 0

/** Sets the picture: places are bytes; `places` holds eleven of them as 32-bit numbers. */
export function intraPicture(places: usize, strideY: i32, strideC: i32, mbs: i32, lines: i32, depth: i32): void {
  source0 = load<u32>(places)
  source1 = load<u32>(places, 4)
  source2 = load<u32>(places, 8)
  rebuilt0 = load<u32>(places, 12)
  rebuilt1 = load<u32>(places, 16)
  rebuilt2 = load<u32>(places, 20)
  kinds = load<u32>(places, 24)
  counts = load<u32>(places, 28)
  modes = load<u32>(places, 32)
  qps = load<u32>(places, 36)
  slices = load<u32>(places, 40)
  strideLuma = strideY
  strideChroma = strideC
  width = mbs
  chromaLines = lines
  most = (1 << depth) - 1
  extra = 6 * (depth - 8)
}

export function source(plane: i32): usize {
  return plane == 0 ? source0 : plane == 1 ? source1 : source2
}

export function rebuilt(plane: i32): usize {
  return plane == 0 ? rebuilt0 : plane == 1 ? rebuilt1 : rebuilt2
}

/** Bytes from one line of a plane to the next. */
export function pitch(plane: i32): i32 {
  return (plane == 0 ? strideLuma : strideChroma) * 2
}

/** Bytes from the first sample of a plane to that of a macroblock. */
export function offset(mb: i32, plane: i32): usize {
  const x = mb % width
  const y = mb / width
  if (plane == 0) return <usize>((y * 16 * strideLuma + x * 16) * 2)
  return <usize>((y * chromaLines * strideChroma + x * 8) * 2)
}

export function countsOf(mb: i32): usize {
  return counts + <usize>(mb * 32)
}

export function modesOf(mb: i32): usize {
  return modes + <usize>(mb * 16)
}

export function kindOf(mb: i32): usize {
  return kinds + <usize>mb
}

export function qpPlace(mb: i32): usize {
  return qps + <usize>mb
}

export function slicePlace(mb: i32): usize {
  return slices + <usize>(mb * 2)
}

/** Neighbours: left 1, above 2, corner 4, above to the right 8. */
export function neighbours(mb: i32): i32 {
  const slice = load<u16>(slicePlace(mb))
  const x = mb % width
  const above = mb - width
  let there = 0
  if (x > 0 && load<u16>(slicePlace(mb - 1)) == slice) there |= 1
  if (above < 0) return there
  if (load<u16>(slicePlace(above)) == slice) there |= 2
  if (x > 0 && load<u16>(slicePlace(above - 1)) == slice) there |= 4
  if (x < width - 1 && load<u16>(slicePlace(above + 1)) == slice) there |= 8
  return there
}

function context(left: i32, above: i32): i32 {
  if (left < 0) return above < 0 ? 0 : above
  return above < 0 ? left : (left + above + 1) >> 1
}

export function lumaContext(mb: i32, there: i32, block: i32): i32 {
  const own = countsOf(mb)
  const left = block & 3 ? <i32>load<u8>(own + block - 1) : there & 1 ? <i32>load<u8>(own - 32 + block + 3) : -1
  const above =
    block > 3 ? <i32>load<u8>(own + block - 4) : there & 2 ? <i32>load<u8>(countsOf(mb - width) + block + 12) : -1
  return context(left, above)
}

export function chromaContext(mb: i32, there: i32, block: i32): i32 {
  const own = countsOf(mb)
  const i = block & 7
  const last = chromaLines == 8 ? 2 : 6
  const left = i & 1 ? <i32>load<u8>(own + block - 1) : there & 1 ? <i32>load<u8>(own - 32 + block + 1) : -1
  const above =
    i > 1 ? <i32>load<u8>(own + block - 2) : there & 2 ? <i32>load<u8>(countsOf(mb - width) + block + last) : -1
  return context(left, above)
}

export function likelyMode(mb: i32, there: i32, block: i32): i32 {
  const own = modesOf(mb)
  const left = block & 3 ? <i32>load<i8>(own + block - 1) : there & 1 ? <i32>load<i8>(own - 16 + block + 3) : -1
  const above =
    block > 3 ? <i32>load<i8>(own + block - 4) : there & 2 ? <i32>load<i8>(modesOf(mb - width) + block + 12) : -1
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

/** The place of a block in the order they are coded, as 4 × line + column. */
export function blockOrder(i: i32): i32 {
  return (i & 1) | ((i & 2) << 1) | ((i & 4) >> 1) | (i & 8)
}

/** What each mode of a block needs of its neighbours. */
export function needs(mode: i32): i32 {
  return mode == 2 ? 0 : mode == 1 || mode == 8 ? 1 : mode == 0 || mode == 3 || mode == 7 ? 2 : 7
}

/** The table of coeff_token by what the neighbours hold. */
export function tableOf(nc: i32): i32 {
  return nc < 2 ? 0 : nc < 4 ? 1 : nc < 8 ? 2 : 3
}
