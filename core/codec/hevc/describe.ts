import { Reader } from '../../bytes'
import type { Chroma, Colour, Scan } from '../../media/media'
import { readHevcSps, type HevcSps } from './sps'

/** What an HEVC configuration says (ISO/IEC 14496-15 8.3.3.1, ITU-T H.265 7.3.2.2). */
export interface HevcParameters {
  readonly profile: string
  readonly level: string
  readonly chroma: Chroma
  readonly bitDepth: number
  readonly width: number
  readonly height: number
  readonly pixelAspect: string | null
  readonly colour: Colour | null
  /** Of what its pictures are, where all are of one kind and that is told (7.4.4); null where it is not. */
  readonly scan: Scan | null
  /** W3C WebCodecs HEVC string. */
  readonly webCodec: string
}

const profiles: Record<number, string> = { 1: 'Main', 2: 'Main 10', 3: 'Main Still Picture', 4: 'Range Extensions' }

/** By general_progressive_source_flag and general_interlaced_source_flag. */
const scans: readonly (Scan | null)[] = [null, 'interlaced', 'progressive', null]

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
  let sps: HevcSps | null = null
  for (let arrays = r.u8(); arrays > 0; arrays--) {
    const type = r.u8() & 63
    for (let n = r.u16(); n > 0; n--) {
      const nal = r.part(r.u16())
      if (type === 33 && !sps) sps = readHevcSps(nal)
    }
  }
  if (!sps) return null
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
    ...sps,
    scan: scans[constraint[0]! >> 6] ?? null,
    webCodec: [
      'hvc1',
      `${space}${profileIdc}`,
      reversed.toString(16),
      `${tier}${levelIdc}`,
      ...constraints.map((c) => c.toString(16)),
    ].join('.'),
  }
}
