import type { Picture, Plane } from './picture'

/**
 * Full-range codes as narrow-range ones (ITU-R BT.2100 table 9): luma to 16 … 235, chroma to 16 … 240, in 8-bit steps.
 */
function table(bitDepth: 8 | 10, scale: number, from: number, to: number): Uint16Array {
  const unit = 1 << (bitDepth - 8)
  const full = (1 << bitDepth) - 1
  return Uint16Array.from({ length: full + 1 }, (_, v) =>
    Math.round(to * unit + ((v - from * unit) * scale * unit) / full),
  )
}

const tables = new Map<number, { readonly luma: Uint16Array; readonly chroma: Uint16Array }>()

function tablesOf(bitDepth: 8 | 10) {
  const kept = tables.get(bitDepth)
  if (kept) return kept
  const made = { luma: table(bitDepth, 219, 0, 16), chroma: table(bitDepth, 224, 128, 128) }
  tables.set(bitDepth, made)
  return made
}

/** A full-range picture (screen captures, browser recordings, stills in JPEG files) in narrow range. */
export function toNarrowRange(p: Picture): Picture {
  const { luma, chroma } = tablesOf(p.bitDepth)
  const convert = (plane: Plane, by: Uint16Array): Plane => {
    const out = p.bitDepth === 8 ? new Uint8Array(plane.length) : new Uint16Array(plane.length)
    for (let i = 0; i < out.length; i++) out[i] = by[plane[i]!]!
    return out
  }
  const [y, u, v] = p.planes
  return { ...p, planes: [convert(y, luma), convert(u, chroma), convert(v, chroma)] }
}
