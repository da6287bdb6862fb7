import { rangeOf } from '../kernel/range'
import type { LumaWeights } from '../media/colour'
import { chromaSize, type Picture } from './picture'

/** Columns of a waveform, and its levels from the top: from 110 % of the nominal range down to −10 %. */
export const waveformSize = { columns: 256, levels: 240, highest: 110, lowest: -10 } as const

/** What luma may be, in per cent of the nominal range (EBU R 103). */
export const lumaLimits = { lowest: -1, highest: 103 } as const

/** How often each level of luma stands in each part of a picture's width, and what EBU R 103 asks. */
export interface Waveform {
  /** By level from the top, then by column: 0 … 255, brighter where more samples are, none where there is none. */
  readonly density: Uint8Array
  /** Lowest and highest luma, in per cent of the nominal range. */
  readonly lowest: number
  readonly highest: number
  /** Per cent outside −1 % … 103 % in luma, and outside −5 % … 105 % in R′, G′ or B′ (EBU R 103). */
  readonly luma: number
  readonly gamut: number
}

/**
 * The waveform of a picture's luma, and its levels by the weights of luma, from its own samples: what lies below black
 * and above white is in it.
 */
export function waveformOf(p: Picture, weights: LumaWeights): Waveform {
  const { columns, levels, highest, lowest } = waveformSize
  const [Y] = p.planes
  const unit = 1 << (p.bitDepth - 8)
  const rowOf = Int32Array.from({ length: 256 * unit }, (_, code) => {
    const percent = ((code / unit - 16) / 219) * 100
    const row = Math.round(((highest - percent) / (highest - lowest)) * (levels - 1))
    return Math.max(0, Math.min(levels - 1, row)) * columns
  })
  const columnOf = Int32Array.from({ length: p.width }, (_, x) => Math.floor((x * columns) / p.width))
  const counts = new Uint32Array(columns * levels)
  for (let y = 0; y < p.height; y++) {
    const line = y * p.width
    for (let x = 0; x < p.width; x++) counts[rowOf[Y[line + x]!]! + columnOf[x]!]!++
  }
  // as many samples as a column has are all there can be; a few are to be seen as well
  const most = Math.log1p((p.height * p.width) / columns / 8)
  const density = Uint8Array.from(counts, (n) =>
    n === 0 ? 0 : 48 + Math.round(207 * Math.min(1, Math.log1p(n) / most)),
  )
  const found = rangeOf({ ...p, chromaLines: chromaSize(p).height, weights })
  const percent = (code: number) => ((code / unit - 16) / 219) * 100
  return {
    density,
    lowest: percent(found.lowest),
    highest: percent(found.highest),
    luma: (found.luma / found.samples) * 100,
    gamut: (found.gamut / found.sites) * 100,
  }
}
