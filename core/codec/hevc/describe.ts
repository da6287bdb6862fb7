import { Reader } from '../../bytes'
import type { Chroma, Colour } from '../../media/media'
import { BitReader, unescapeNal } from '../../bits'

/** What an HEVC configuration says (ISO/IEC 14496-15 8.3.3.1, ITU-T H.265 7.3.2.2). */
export interface HevcParameters {
  readonly profile: string
  readonly level: string
  readonly chroma: Chroma
  readonly bitDepth: number
  readonly width: number
  readonly height: number
  readonly pixelAspect: string
  readonly colour: Colour | null
  /** W3C WebCodecs HEVC string. */
  readonly webCodec: string
}

const profiles: Record<number, string> = { 1: 'Main', 2: 'Main 10', 3: 'Main Still Picture', 4: 'Range Extensions' }

/** Parses an hvcC payload and the first sequence parameter set in it; null when there is none or it makes no sense. */
export function parseHevcConfiguration(payload: Uint8Array): HevcParameters | null {
  const r = new Reader(payload, 'hvcC')
  r.skip(1)
  const byte1 = r.u8()
  const profileIdc = byte1 & 31
  const compat = r.u32()
  const constraint = r.part(6)
  const levelIdc = r.u8()
  r.skip(4)
  const chromaIdc = r.u8() & 3
  const bitDepth = (r.u8() & 7) + 8
  r.skip(4)
  let size: { width: number; height: number } | null = null
  for (let arrays = r.u8(); arrays > 0; arrays--) {
    const type = r.u8() & 63
    for (let n = r.u16(); n > 0; n--) {
      const nal = r.part(r.u16())
      if (type === 33 && !size) size = spsSize(nal)
    }
  }
  if (!size) return null
  let reversed = 0
  for (let i = 0; i < 32; i++) reversed = reversed * 2 + ((compat >>> i) & 1)
  const constraints = [...constraint]
  while (constraints.length && constraints.at(-1) === 0) constraints.pop()
  const tier = byte1 & 0x20 ? 'H' : 'L'
  const space = ['', 'A', 'B', 'C'][byte1 >> 6]!
  return {
    profile: profiles[profileIdc] ?? `profile ${profileIdc}`,
    level: (levelIdc / 30).toFixed(1),
    chroma: (['4:0:0', '4:2:0', '4:2:2', '4:4:4'] as const)[chromaIdc]!,
    bitDepth,
    ...size,
    pixelAspect: '1:1',
    colour: null,
    webCodec: [
      'hvc1',
      `${space}${profileIdc}`,
      reversed.toString(16),
      `${tier}${levelIdc}`,
      ...constraints.map((c) => c.toString(16)),
    ].join('.'),
  }
}

/** Raster of an HEVC sequence parameter set, conformance window applied. */
function spsSize(nal: Uint8Array): { width: number; height: number } | null {
  const r = new BitReader(unescapeNal(nal.subarray(2)))
  r.skip(4)
  const maxSubLayers = r.u(3)
  r.skip(1 + 88 + 8)
  const present: [boolean, boolean][] = []
  for (let i = 0; i < maxSubLayers; i++) present.push([r.flag(), r.flag()])
  if (maxSubLayers > 0) for (let i = maxSubLayers; i < 8; i++) r.skip(2)
  for (const [profile, level] of present) r.skip((profile ? 88 : 0) + (level ? 8 : 0))
  r.ue()
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
