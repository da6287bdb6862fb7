import type { Colour } from '../../media/media'
import { BitReader, unescapeNal } from '../../bits'
import { readVuiHead } from '../h264/vui'

/** What of an HEVC sequence parameter set matters here. */
export interface HevcSps {
  readonly width: number
  readonly height: number
  readonly pixelAspect: string | null
  readonly colour: Colour | null
}

/** Most short-term reference picture sets there may be (ITU-T H.265 7.4.3.2.1). */
const mostSets = 64

/**
 * Reads a sequence parameter set with its two header bytes (ITU-T H.265 7.3.2.2.1): the raster with the conformance
 * window applied, and what its usability information says of aspect and colour. Null when it makes no sense.
 */
export function readHevcSps(nal: Uint8Array): HevcSps | null {
  const r = new BitReader(unescapeNal(nal.subarray(2)))
  r.skip(4)
  const maxSubLayers = r.u(3)
  r.skip(1)
  skipProfile(r, maxSubLayers)
  r.ue()
  const size = readSize(r)
  if (!size) return null
  r.ue()
  r.ue()
  const pocBits = r.ue() + 4
  const ordered = r.flag()
  for (let i = ordered ? 0 : maxSubLayers; i <= maxSubLayers; i++) for (let k = 0; k < 3; k++) r.ue()
  for (let k = 0; k < 6; k++) r.ue()
  if (r.flag() && r.flag()) skipScalingLists(r)
  r.skip(2)
  if (r.flag()) {
    r.skip(8)
    r.ue()
    r.ue()
    r.skip(1)
  }
  const plain = { ...size, pixelAspect: null, colour: null }
  if (!skipReferenceSets(r)) return plain
  if (r.flag()) {
    const longTerm = r.ue()
    if (longTerm > 32) return plain
    r.skip(longTerm * (pocBits + 1))
  }
  r.skip(2)
  const usable = r.left > 0 && r.flag()
  return usable ? { ...size, ...readVuiHead(r) } : plain
}

/** profile_tier_level (7.3.3), without its values. */
function skipProfile(r: BitReader, maxSubLayers: number): void {
  r.skip(88 + 8)
  const present: [boolean, boolean][] = []
  for (let i = 0; i < maxSubLayers; i++) present.push([r.flag(), r.flag()])
  if (maxSubLayers > 0) for (let i = maxSubLayers; i < 8; i++) r.skip(2)
  for (const [profile, level] of present) r.skip((profile ? 88 : 0) + (level ? 8 : 0))
}

function readSize(r: BitReader): { width: number; height: number } | null {
  const chroma = r.ue()
  if (chroma === 3) r.skip(1)
  let width = r.ue()
  let height = r.ue()
  if (r.flag()) {
    const x = chroma === 1 || chroma === 2 ? 2 : 1
    const y = chroma === 1 ? 2 : 1
    const [left, right, top, bottom] = [r.ue(), r.ue(), r.ue(), r.ue()]
    width -= x * (left + right)
    height -= y * (top + bottom)
  }
  return width > 0 && height > 0 && width <= 16384 && height <= 16384 ? { width, height } : null
}

/** scaling_list_data (7.3.4). */
function skipScalingLists(r: BitReader): void {
  for (let size = 0; size < 4; size++)
    for (let matrix = 0; matrix < 6; matrix += size === 3 ? 3 : 1) {
      if (!r.flag()) {
        r.ue()
        continue
      }
      if (size > 1) r.se()
      for (let i = Math.min(64, 1 << (4 + 2 * size)); i > 0; i--) r.se()
    }
}

/** Every st_ref_pic_set (7.3.7) of a parameter set; false when there are more than there may be. */
function skipReferenceSets(r: BitReader): boolean {
  const count = r.ue()
  if (count > mostSets) return false
  let before: readonly number[] = []
  for (let i = 0; i < count; i++) {
    const set = i > 0 && r.flag() ? predictedSet(r, before) : plainSet(r)
    if (!set) return false
    before = set
  }
  return true
}

/** Distances of a set's pictures, each once; null when there are more than there may be. */
function plainSet(r: BitReader): number[] | null {
  const [negative, positive] = [r.ue(), r.ue()]
  if (negative > 16 || positive > 16) return null
  const out: number[] = []
  for (const [n, sign] of [
    [negative, -1],
    [positive, 1],
  ] as const)
    for (let i = 0, at = 0; i < n; i++) {
      at += sign * (r.ue() + 1)
      r.skip(1)
      out.push(at)
    }
  return out
}

/** A set made from the one before it (7-61, 7-62): pictures moved by one distance, and that distance itself. */
function predictedSet(r: BitReader, before: readonly number[]): number[] {
  const sign = r.flag() ? -1 : 1
  const delta = sign * (r.ue() + 1)
  const out: number[] = []
  for (const distance of [...before, 0]) {
    const used = r.flag()
    const kept = used || r.flag()
    if (kept && distance + delta !== 0) out.push(distance + delta)
  }
  return out
}
