import type { Colour } from '../../media/media'
import type { BitReader } from '../../bits'
import { makeRate, rateText } from '../../time/rate'

/** What of the video usability information (H.264 Annex E, H.265 Annex E) matters here. */
export interface Vui {
  /** Null where it is not stated. */
  pixelAspect: string | null
  colour: Colour | null
  /** Frames a second when the parameter set fixes them. */
  timing: { num: number; den: number } | null
}

/** Sample aspect ratios by aspect_ratio_idc (H.264 table E-1). */
const aspects: readonly (readonly [number, number])[] = [
  [0, 0],
  [1, 1],
  [12, 11],
  [10, 11],
  [16, 11],
  [40, 33],
  [24, 11],
  [20, 11],
  [32, 11],
  [80, 33],
  [18, 11],
  [15, 11],
  [64, 33],
  [160, 99],
  [4, 3],
  [3, 2],
  [2, 1],
]

/** Reads the parts of the VUI that both codecs share: aspect, overscan, signal type, chroma location. */
export function readVuiHead(r: BitReader): Pick<Vui, 'pixelAspect' | 'colour'> {
  let pixelAspect: string | null = null
  let colour: Colour | null = null
  if (r.flag()) {
    const idc = r.u(8)
    const [h, v] = idc === 255 ? [r.u(16), r.u(16)] : (aspects[idc] ?? [0, 0])
    if (h > 0 && v > 0) pixelAspect = rateText(makeRate(h, v)).replace('/', ':')
  }
  if (r.flag()) r.u(1)
  if (r.flag()) {
    r.u(3)
    const fullRange = r.flag()
    if (r.flag()) colour = { primaries: r.u(8), transfer: r.u(8), matrix: r.u(8), fullRange }
    else if (fullRange) colour = { primaries: 2, transfer: 2, matrix: 2, fullRange }
  }
  if (r.flag()) {
    r.ue()
    r.ue()
  }
  return { pixelAspect, colour }
}
