import { unescapeNal } from '../../bits'
import { SliceFault, SliceReader } from './slicebits'
import { flat, type Weights } from './transform'

/** What decoding needs of a sequence parameter set (ITU-T H.264 7.3.2.1.1). */
export interface Sequence {
  readonly id: number
  readonly profile: number
  /** chroma_format_idc: 1 is 4:2:0, 2 is 4:2:2. */
  readonly chroma: number
  readonly depth: number
  /** Macroblocks of a line, and lines of macroblocks of a frame. */
  readonly width: number
  readonly height: number
  /** Whether every picture is a whole frame. */
  readonly frames: boolean
  /** Whether macroblocks of a frame may be of fields, pair by pair. */
  readonly adaptive: boolean
  readonly frameNumberBits: number
  readonly order: { readonly kind: number; readonly bits: number; readonly deltas: boolean }
  /** Luma samples taken off at the left, right, top and bottom of a frame. */
  readonly crop: readonly [number, number, number, number]
  readonly weights: Weights | null
}

/** What decoding needs of a picture parameter set (7.3.2.2). */
export interface PictureSet {
  readonly id: number
  readonly sequence: number
  readonly cabac: boolean
  readonly bottomOrder: boolean
  readonly groups: number
  readonly qp: number
  readonly chromaOffsets: readonly [number, number]
  readonly deblockingControl: boolean
  readonly redundant: boolean
  readonly eight: boolean
  readonly weights: Weights
}

/** What a slice says of itself before its macroblocks (7.3.3). */
export interface SliceHeader {
  readonly first: number
  readonly kind: number
  readonly set: number
  readonly frameNumber: number
  readonly field: 'frame' | 'top' | 'bottom'
  readonly idr: boolean
  readonly qp: number
  readonly deblocking: { readonly off: number; readonly alpha: number; readonly beta: number }
}

// scans of 4×4 and 8×8 blocks (figures 8-8 and 8-9, tables 8-13 …): places line by line, of frames and of fields
const frame4 = Uint8Array.of(0, 1, 4, 8, 5, 2, 3, 6, 9, 12, 13, 10, 7, 11, 14, 15)
const field4 = Uint8Array.of(0, 4, 1, 8, 12, 5, 9, 13, 2, 6, 10, 14, 3, 7, 11, 15)
const frame8 = Uint8Array.of(
  ...[0, 1, 8, 16, 9, 2, 3, 10, 17, 24, 32, 25, 18, 11, 4, 5, 12, 19, 26, 33, 40, 48, 41, 34, 27, 20, 13, 6, 7, 14],
  ...[21, 28, 35, 42, 49, 56, 57, 50, 43, 36, 29, 22, 15, 23, 30, 37, 44, 51, 58, 59, 52, 45, 38, 31, 39, 46, 53],
  ...[60, 61, 54, 47, 55, 62, 63],
)
const field8 = Uint8Array.of(
  ...[0, 8, 16, 1, 9, 24, 32, 17, 2, 25, 40, 48, 56, 33, 10, 3, 18, 41, 49, 57, 26, 11, 4, 19, 34, 42, 50, 58],
  ...[27, 12, 5, 20, 35, 43, 51, 59, 28, 13, 6, 21, 36, 44, 52, 60, 29, 14, 22, 37, 45, 53, 61, 30, 7, 15, 38],
  ...[46, 54, 62, 23, 31, 39, 47, 55, 63],
)

/** The scan of each of the four blocks of sixteen that an 8×8 block is coded as, by CAVLC (7.3.5.3.2). */
const parted = (scan: Uint8Array) =>
  [0, 1, 2, 3].map((k) => Uint8Array.from({ length: 16 }, (_, i) => scan[4 * i + k]!))

/** The order in which coefficients are coded, of frames and of fields. */
export const scans = {
  frame: { four: frame4, eight: parted(frame8), whole: frame8 },
  field: { four: field4, eight: parted(field8), whole: field8 },
} as const
export type Scan = (typeof scans)['frame' | 'field']

// the lists that stand where none is sent (tables 7-3 and 7-4), in zig-zag order
const intra4 = Uint8Array.of(6, 13, 13, 20, 20, 20, 28, 28, 28, 28, 32, 32, 32, 37, 37, 42)
const intra8 = Uint8Array.of(
  ...[6, 10, 10, 13, 11, 13, 16, 16, 16, 16, 18, 18, 18, 18, 18, 23, 23, 23, 23, 23, 23, 25, 25, 25, 25, 25, 25, 25],
  ...[27, 27, 27, 27, 27, 27, 27, 27, 29, 29, 29, 29, 29, 29, 29, 31, 31, 31, 31, 31, 31, 33, 33, 33, 33, 33],
  ...[36, 36, 36, 36, 38, 38, 38, 40, 40, 42],
)

/** A list as it is sent (7.3.2.1.1.1); null where the one of the standard is meant. */
function scalingList(r: SliceReader, size: number): Uint8Array | null {
  const list = new Uint8Array(size)
  let [last, next] = [8, 8]
  for (let i = 0; i < size; i++) {
    if (next !== 0) {
      next = (last + r.se() + 256) & 255
      if (i === 0 && next === 0) return null
    }
    last = next === 0 ? last : next
    list[i] = last
  }
  return list
}

const placed = (list: Uint8Array, scan: Uint8Array) => {
  const out = new Uint8Array(list.length)
  list.forEach((v, i) => (out[scan[i]!] = v))
  return out
}

/** The lists of a parameter set; what is not sent falls back on the one before, the first ones on `otherwise`. */
function scalingLists(r: SliceReader, eights: number, otherwise: Weights | null): Weights {
  const four: Uint8Array[] = []
  let eight: Uint8Array | null = null
  for (let i = 0; i < 6 + eights; i++) {
    const sent = r.u(1) === 1
    if (i < 6) {
      const list = sent ? placed(scalingList(r, 16) ?? intra4, frame4) : null
      if (i < 3) four.push(list ?? four[i - 1] ?? otherwise?.four[0] ?? placed(intra4, frame4))
    } else {
      const list = sent ? placed(scalingList(r, 64) ?? intra8, frame8) : null
      if (i === 6) eight = list
    }
  }
  return { four, eight: eight ?? otherwise?.eight ?? placed(intra8, frame8) }
}

const high = new Set([100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135])

/** Macroblocks of a frame at level 5.2 (table A-1, MaxFS): what claims more is not decoded. */
const mostMacroblocks = 36_864

/** Reads a sequence parameter set, its header byte included. Throws a {@link SliceFault} where it breaks off. */
export function readSequence(nal: Uint8Array): Sequence {
  const r = new SliceReader(unescapeNal(nal.subarray(1)))
  const profile = r.u(8)
  r.u(16)
  const id = r.ue()
  let [chroma, depth] = [1, 8]
  let weights: Weights | null = null
  if (high.has(profile)) {
    chroma = r.ue()
    if (chroma === 3) r.u(1)
    depth = 8 + r.ue()
    const chromaDepth = 8 + r.ue()
    const bypass = r.u(1)
    if (chroma < 1 || chroma > 2 || (depth !== 8 && depth !== 10) || chromaDepth !== depth || bypass)
      r.fault('a format of pictures that is not read here')
    if (r.u(1)) weights = scalingLists(r, 2, null)
  }
  const frameNumberBits = r.ue() + 4
  const kind = r.ue()
  let bits = 0
  let deltas = false
  if (kind === 0) bits = r.ue() + 4
  else if (kind === 1) {
    deltas = r.u(1) === 0
    r.se()
    r.se()
    for (let n = Math.min(r.ue(), 255); n > 0; n--) r.se()
  }
  r.ue()
  r.u(1)
  const width = r.ue() + 1
  const units = r.ue() + 1
  const frames = r.u(1) === 1
  const height = frames ? units : units * 2
  const adaptive = !frames && r.u(1) === 1
  r.u(1)
  let crop: Sequence['crop'] = [0, 0, 0, 0]
  if (r.u(1)) {
    const y = (chroma === 1 ? 2 : 1) * (frames ? 1 : 2)
    crop = [r.ue() * 2, r.ue() * 2, r.ue() * y, r.ue() * y]
  }
  const [left, right, top, bottom] = crop
  if (r.over || width * height > mostMacroblocks || left + right >= width * 16 || top + bottom >= height * 16)
    r.fault('the size of pictures')
  const order = { kind, bits, deltas }
  return { id, profile, chroma, depth, width, height, frames, adaptive, frameNumberBits, order, crop, weights }
}

/** Reads a picture parameter set, its header byte included; `sequenceOf` gives the sequence it is of. */
export function readPictureSet(nal: Uint8Array, sequenceOf: (id: number) => Sequence | undefined): PictureSet {
  const r = new SliceReader(unescapeNal(nal.subarray(1)))
  const id = r.ue()
  const sequence = r.ue()
  const of = sequenceOf(sequence) ?? r.fault('the sequence of a picture parameter set')
  const cabac = r.u(1) === 1
  const bottomOrder = r.u(1) === 1
  const groups = r.ue() + 1
  if (groups > 1) r.unread('slice groups')
  r.ue()
  r.ue()
  r.u(3)
  const qp = 26 + r.se()
  r.se()
  const cb = r.se()
  const deblockingControl = r.u(1) === 1
  r.u(1)
  const redundant = r.u(1) === 1
  let eight = false
  let weights = of.weights ?? flat
  let cr = cb
  if (r.more()) {
    eight = r.u(1) === 1
    if (r.u(1)) weights = scalingLists(r, eight ? 2 : 0, of.weights)
    cr = r.se()
  }
  if (r.over) r.fault('a picture parameter set')
  const chromaOffsets = [cb, cr] as const
  return { id, sequence, cabac, bottomOrder, groups, qp, chromaOffsets, deblockingControl, redundant, eight, weights }
}

/** Whether a stream with such parameter sets is one of intra pictures that are decoded here: of an intra profile. */
export function isIntra({ sps, pps }: { readonly sps: readonly Uint8Array[]; readonly pps: readonly Uint8Array[] }) {
  // profile_idc, and constraint_set3_flag, which makes the profiles of 10 bit and 4:2:2 intra ones (A.2.8, A.2.9)
  if (!sps.every((s) => (s[1] === 110 || s[1] === 122) && (s[2]! & 0x10) !== 0)) return false
  try {
    const sequences = new Map(sps.map(readSequence).map((s) => [s.id, s]))
    const sets = pps.map((p) => readPictureSet(p, (id) => sequences.get(id)))
    return sets.length > 0
  } catch (e) {
    if (e instanceof SliceFault) return false
    throw e
  }
}

/** Reads the header of a slice; its macroblocks follow in `r`. */
export function readSliceHeader(
  r: SliceReader,
  nalType: number,
  reference: boolean,
  sets: { picture(id: number): PictureSet | undefined; sequence(id: number): Sequence | undefined },
): SliceHeader {
  const first = r.ue()
  const kind = r.ue() % 5
  const set = r.ue()
  const p = sets.picture(set) ?? r.unread('parameter sets that are not in the stream')
  const s = sets.sequence(p.sequence)!
  const frameNumber = r.u(s.frameNumberBits)
  let field: SliceHeader['field'] = 'frame'
  if (!s.frames && r.u(1)) field = r.u(1) ? 'bottom' : 'top'
  const idr = nalType === 5
  if (idr) r.ue()
  if (s.order.kind === 0) {
    r.u(s.order.bits)
    if (p.bottomOrder && field === 'frame') r.se()
  } else if (s.order.kind === 1 && s.order.deltas) {
    r.se()
    if (p.bottomOrder && field === 'frame') r.se()
  }
  if (p.redundant) r.ue()
  if (kind !== 2) r.unread('slices that lean on other pictures')
  if (reference) readMarking(r, idr)
  const qp = p.qp + r.se()
  let deblocking = { off: 0, alpha: 0, beta: 0 }
  if (p.deblockingControl) {
    const off = r.ue()
    deblocking = off === 1 ? { off, alpha: 0, beta: 0 } : { off, alpha: r.se() * 2, beta: r.se() * 2 }
  }
  if (qp < -6 * (s.depth - 8) || qp > 51 || Math.abs(deblocking.alpha) > 12 || Math.abs(deblocking.beta) > 12)
    r.fault('the header of a slice')
  return { first, kind, set, frameNumber, field, idr, qp, deblocking }
}

/** Reference picture marking (7.3.3.3): nothing here depends on it. */
function readMarking(r: SliceReader, idr: boolean): void {
  if (idr) {
    r.u(2)
    return
  }
  if (!r.u(1)) return
  for (let n = 0; n < 64; n++) {
    const operation = r.ue()
    if (operation === 0) return
    if (operation !== 5) r.ue()
    if (operation === 3) r.ue()
  }
}
