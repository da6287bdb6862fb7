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
/** Samples from one line of the frame or field to the next. */
let strideLuma: i32 = 0
let strideChroma: i32 = 0
/** Whether macroblocks go by pairs, each of frame lines or of fields; of each pair, whether it is of fields. */
export let paired: bool = false
let pairs: usize = 0
/** Whether the macroblock at hand is of a field. */
export let ofField: bool = false
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

/**
 * Sets the picture, a frame or a field: places are bytes; `places` holds twelve of them as 32-bit numbers, the last for
 * what is known of pairs, nought where macroblocks do not go by pairs.
 */
export function intraPicture(
  places: usize,
  strideY: i32,
  strideC: i32,
  mbs: i32,
  lines: i32,
  depth: i32,
  field: bool,
): void {
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
  pairs = load<u32>(places, 44)
  paired = pairs != 0
  ofField = field
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

/** Sets how a pair is coded, before its first macroblock. */
export function setPair(mb: i32, fields: bool): void {
  store<u8>(pairs + <usize>(mb >> 1), fields ? 1 : 0)
  ofField = fields
}

export function pairOfFields(pair: i32): bool {
  return load<u8>(pairs + <usize>pair) == 1
}

/** Bytes from one line of the macroblock at hand to the next, in a plane. */
export function pitch(plane: i32): i32 {
  const stride = plane == 0 ? strideLuma : strideChroma
  return paired && ofField ? stride * 4 : stride * 2
}

/** Bytes from the first sample of a plane to that of the macroblock at hand. */
export function offset(mb: i32, plane: i32): usize {
  if (paired) return pairOffset(mb, plane)
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

function pairOffset(mb: i32, plane: i32): usize {
  const x = (mb >> 1) % width
  const lines = plane == 0 ? 16 : chromaLines
  const line = ((mb >> 1) / width) * lines * 2 + (mb & 1) * (ofField ? 1 : lines)
  return <usize>((line * (plane == 0 ? strideLuma : strideChroma) + x * (plane == 0 ? 16 : 8)) * 2)
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
