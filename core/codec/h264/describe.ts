import { Reader } from '../../bytes'
import type { Chroma, Colour } from '../../media/media'
import { BitReader, unescapeNal } from '../../bits'
import { readVuiHead } from './vui'

/** What an H.264 sequence parameter set says (ITU-T H.264 7.3.2.1.1 and Annex E). */
export interface AvcParameters {
  readonly profile: string
  readonly level: string
  readonly chroma: Chroma
  readonly bitDepth: number
  readonly width: number
  readonly height: number
  readonly frameMbsOnly: boolean
  readonly pixelAspect: string | null
  readonly colour: Colour | null
  readonly timing: { num: number; den: number } | null
  /** W3C WebCodecs AVC string, `avc1.PPCCLL`. */
  readonly webCodec: string
  /** Pictures a decoder may hold back (max_num_reorder_frames), null when not said. */
  readonly reorder: number | null
}

function profileName(idc: number, constraints: number, cavlc444: boolean): string {
  const set3 = (constraints & 0x10) !== 0
  const set1 = (constraints & 0x40) !== 0
  switch (idc) {
    case 66:
      return set1 ? 'Constrained Baseline' : 'Baseline'
    case 77:
      return 'Main'
    case 88:
      return 'Extended'
    case 100:
      return 'High'
    case 110:
      return set3 ? 'High 10 Intra' : 'High 10'
    case 122:
      return set3 ? 'High 4:2:2 Intra' : 'High 4:2:2'
    case 244:
      return set3 ? 'High 4:4:4 Intra' : 'High 4:4:4 Predictive'
    case 44:
      return 'CAVLC 4:4:4 Intra'
    default:
      return cavlc444 ? 'CAVLC 4:4:4 Intra' : `profile ${idc}`
  }
}

const highProfiles = new Set([100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135])

function skipScalingList(r: BitReader, size: number): void {
  let last = 8
  let next = 8
  for (let i = 0; i < size && r.left > 0; i++) {
    if (next !== 0) next = (last + r.se() + 256) % 256
    last = next === 0 ? last : next
  }
}

function skipHrd(r: BitReader): void {
  const count = Math.min(r.ue() + 1, 32)
  r.skip(8)
  for (let i = 0; i < count; i++) {
    r.ue()
    r.ue()
    r.skip(1)
  }
  r.skip(20)
}

/** How chroma and depth are coded (7.3.2.1.1); profiles below High are 8-bit 4:2:0. */
function readFormat(r: BitReader, profile: number): { chromaIdc: number; bitDepth: number } {
  if (!highProfiles.has(profile)) return { chromaIdc: 1, bitDepth: 8 }
  const chromaIdc = r.ue()
  if (chromaIdc === 3) r.skip(1)
  const bitDepth = 8 + r.ue()
  r.ue()
  r.skip(1)
  if (r.flag()) for (let i = 0; i < (chromaIdc === 3 ? 12 : 8); i++) if (r.flag()) skipScalingList(r, i < 6 ? 16 : 64)
  return { chromaIdc, bitDepth }
}

/** Picture order counts: nothing here depends on them. */
function skipOrder(r: BitReader): void {
  r.ue()
  const pocType = r.ue()
  if (pocType === 0) r.ue()
  else if (pocType === 1) {
    r.skip(1)
    r.se()
    r.se()
    const n = Math.min(r.ue(), 255)
    for (let i = 0; i < n; i++) r.se()
  }
  r.ue()
  r.skip(1)
}

/** The size that is shown, cropping taken off. */
function readSize(r: BitReader, chromaIdc: number): { width: number; height: number; frameMbsOnly: boolean } {
  const widthMbs = r.ue() + 1
  const heightUnits = r.ue() + 1
  const frameMbsOnly = r.flag()
  if (!frameMbsOnly) r.skip(1)
  r.skip(1)
  let width = widthMbs * 16
  let height = heightUnits * 16 * (frameMbsOnly ? 1 : 2)
  if (r.flag()) {
    const subX = chromaIdc === 1 || chromaIdc === 2 ? 2 : 1
    const subY = (chromaIdc === 1 ? 2 : 1) * (frameMbsOnly ? 1 : 2)
    const [left, right, top, bottom] = [r.ue(), r.ue(), r.ue(), r.ue()]
    width -= (left + right) * subX
    height -= (top + bottom) * subY
  }
  return { width, height, frameMbsOnly }
}

/** What the usability information adds (Annex E.1.1). */
function readUsability(r: BitReader): Pick<AvcParameters, 'pixelAspect' | 'colour' | 'timing' | 'reorder'> {
  if (!r.flag()) return { pixelAspect: null, colour: null, timing: null, reorder: null }
  const { pixelAspect, colour } = readVuiHead(r)
  let timing: AvcParameters['timing'] = null
  if (r.flag()) {
    const units = r.u(32)
    const scale = r.u(32)
    r.skip(1)
    if (units > 0 && scale > 0) timing = { num: scale, den: units * 2 }
  }
  const nalHrd = r.flag()
  if (nalHrd) skipHrd(r)
  const vclHrd = r.flag()
  if (vclHrd) skipHrd(r)
  if (nalHrd || vclHrd) r.skip(1)
  r.skip(1)
  if (!r.flag()) return { pixelAspect, colour, timing, reorder: null }
  r.skip(1)
  for (let i = 0; i < 4; i++) r.ue()
  return { pixelAspect, colour, timing, reorder: r.ue() }
}

/** Parses a sequence parameter set NAL unit (with its header byte); null when it is not one or makes no sense. */
export function parseAvcSps(nal: Uint8Array): AvcParameters | null {
  if (nal.length < 5 || (nal[0]! & 31) !== 7) return null
  const bytes = unescapeNal(nal.subarray(1))
  const idc = bytes[0]!
  const constraints = bytes[1]!
  const levelIdc = bytes[2]!
  const r = new BitReader(bytes.subarray(3))
  r.ue()
  const { chromaIdc, bitDepth } = readFormat(r, idc)
  skipOrder(r)
  const { width, height, frameMbsOnly } = readSize(r, chromaIdc)
  if (width <= 0 || height <= 0 || width > 16384 || height > 16384 || bitDepth > 14 || chromaIdc > 3) return null
  const two = (v: number) => v.toString(16).padStart(2, '0')
  // level 1b (A.3.4.1, A.3.4.2) is 9, or 11 with a flag: decoders that do not know it take 1.1, which holds more
  const oneB = levelIdc === 9 || (levelIdc === 11 && (constraints & 0x10) !== 0 && idc < 100)
  return {
    profile: profileName(idc, constraints, false),
    level: oneB ? '1b' : (levelIdc / 10).toFixed(1),
    chroma: (['4:0:0', '4:2:0', '4:2:2', '4:4:4'] as const)[chromaIdc]!,
    bitDepth,
    width,
    height,
    frameMbsOnly,
    ...readUsability(r),
    webCodec: `avc1.${two(idc)}${two(constraints)}${two(levelIdc === 9 ? 11 : levelIdc)}`,
  }
}

/**
 * Where, in bits, a sequence parameter set's payload says whether usability information follows; null for another
 * unit.
 */
export function usabilityAt(bytes: Uint8Array): number | null {
  if (bytes.length < 4) return null
  const r = new BitReader(bytes)
  r.skip(24)
  r.ue()
  const { chromaIdc } = readFormat(r, bytes[0]!)
  skipOrder(r)
  readSize(r, chromaIdc)
  return r.left > 0 ? r.position : null
}

/** Parses an avcC payload (ISO/IEC 14496-15 5.3.3.1): parameter sets and the length-field size. */
export function parseAvcConfiguration(payload: Uint8Array): {
  sps: Uint8Array[]
  pps: Uint8Array[]
  lengthSize: number
  /** Bytes up to the picture parameter sets. */
  length: number
} {
  const r = new Reader(payload, 'avcC')
  r.skip(4)
  const lengthSize = (r.u8() & 3) + 1
  const sps: Uint8Array[] = []
  const pps: Uint8Array[] = []
  for (let n = r.u8() & 31; n > 0; n--) sps.push(r.part(r.u16()))
  const length = r.pos
  for (let n = r.u8(); n > 0; n--) pps.push(r.part(r.u16()))
  return { sps, pps, lengthSize, length }
}
