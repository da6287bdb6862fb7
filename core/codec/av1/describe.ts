import { BitReader } from '../../bits'
import type { Chroma, Colour } from '../../media/media'
import type { PictureDescription } from '../codec'

// What AV1 streams say of their pictures (AV1 bitstream specification 5.5): in a sequence header, which stands in front
// of the first frame and, as a rule, behind the four bytes of a file's configuration.

interface Sequence {
  readonly profile: number
  readonly level: number
  readonly tier: number
  readonly width: number
  readonly height: number
  readonly bitDepth: number
  readonly chroma: Chroma
  readonly colour: Colour | null
}

const sequenceHeader = 1

/** The first sequence header among open bitstream units (5.3); null where there is none. */
function sequenceIn(bytes: Uint8Array): Sequence | null {
  for (let at = 0; at < bytes.length;) {
    const head = bytes[at++]!
    if (head & 4) at++
    let size = bytes.length - at
    if (head & 2) {
      size = 0
      for (let i = 0; i < 4 && at < bytes.length; i++) {
        const byte = bytes[at++]!
        size += (byte & 127) * 2 ** (7 * i)
        if (byte < 128) break
      }
    }
    if (((head >> 3) & 15) === sequenceHeader) return readSequence(bytes.subarray(at, at + size))
    at += size
  }
  return null
}

/** Timing of the decoder, of which one length is needed to pass by the rest (5.5.3 … 5.5.5); 0 where there is none. */
function delayBits(r: BitReader): number {
  if (!r.flag()) return 0
  r.skip(64)
  if (r.flag()) r.ue()
  if (!r.flag()) return 0
  const bits = r.u(5) + 1
  r.skip(32 + 10)
  return bits
}

/** Level and tier of the first operating point (5.5.1). */
function readPoints(r: BitReader): { level: number; tier: number } {
  const delay = delayBits(r)
  const shown = r.flag()
  const count = r.u(5) + 1
  let first: { level: number; tier: number } | null = null
  for (let i = 0; i < count; i++) {
    r.skip(12)
    const level = r.u(5)
    const tier = level > 7 ? r.u(1) : 0
    first ??= { level, tier }
    if (delay && r.flag()) r.skip(2 * delay + 1)
    if (shown && r.flag()) r.skip(4)
  }
  return first!
}

/** Tools of coding, of which nothing matters here (5.5.1). */
function skipTools(r: BitReader): void {
  r.skip(4)
  const ordered = r.flag()
  if (ordered) r.skip(2)
  const forced = r.flag() ? 2 : r.u(1)
  if (forced > 0 && !r.flag()) r.skip(1)
  if (ordered) r.skip(3)
}

/** Null where it breaks off. */
function readSequence(bytes: Uint8Array): Sequence | null {
  const r = new BitReader(bytes)
  const profile = r.u(3)
  r.skip(1)
  const reduced = r.flag()
  const { level, tier } = reduced ? { level: r.u(5), tier: 0 } : readPoints(r)
  const [widthBits, heightBits] = [r.u(4) + 1, r.u(4) + 1]
  const [width, height] = [r.u(widthBits) + 1, r.u(heightBits) + 1]
  if (!reduced && r.flag()) r.skip(7)
  r.skip(3)
  if (!reduced) skipTools(r)
  r.skip(3)
  const colour = readColour(r, profile)
  return r.left < 0 ? null : { profile, level, tier, width, height, ...colour }
}

/** Depth, chroma and colour (5.5.2). */
function readColour(r: BitReader, profile: number): Pick<Sequence, 'bitDepth' | 'chroma' | 'colour'> {
  const high = r.flag()
  const bitDepth = profile === 2 && high ? (r.flag() ? 12 : 10) : high ? 10 : 8
  const grey = profile !== 1 && r.flag()
  const told = r.flag()
  const [primaries, transfer, matrix] = told ? [r.u(8), r.u(8), r.u(8)] : [2, 2, 2]
  const plain = !grey && primaries === 1 && transfer === 13 && matrix === 0
  const fullRange = plain || r.flag()
  const colour = told || fullRange ? { primaries, transfer, matrix, fullRange } : null
  if (grey) return { bitDepth, chroma: '4:0:0', colour }
  if (plain || profile === 1) return { bitDepth, chroma: '4:4:4', colour }
  if (profile === 0) return { bitDepth, chroma: '4:2:0', colour }
  if (bitDepth < 12) return { bitDepth, chroma: '4:2:2', colour }
  const across = r.flag()
  return { bitDepth, chroma: !across ? '4:4:4' : r.flag() ? '4:2:0' : '4:2:2', colour }
}

/** What the first bytes of a file's configuration say (AV1 in ISO base media files 2.3): neither size nor colour. */
function configured(bytes: Uint8Array): Pick<Sequence, 'profile' | 'level' | 'tier' | 'bitDepth' | 'chroma'> | null {
  const r = new BitReader(bytes)
  if (r.u(8) !== 0x81) return null
  const [profile, level, tier] = [r.u(3), r.u(5), r.u(1)]
  const [high, twelve, grey, across, down] = [r.flag(), r.flag(), r.flag(), r.flag(), r.flag()]
  const chroma = grey ? '4:0:0' : !across ? '4:4:4' : down ? '4:2:0' : '4:2:2'
  return r.left < 0 ? null : { profile, level, tier, bitDepth: high ? (twelve ? 12 : 10) : 8, chroma }
}

const profiles = ['Main', 'High', 'Professional']
const two = (v: number) => String(v).padStart(2, '0')

/** What an AV1 stream says of its pictures. */
export function describeAv1(configuration: Uint8Array | null, first: Uint8Array | null): PictureDescription {
  const told = configuration && (sequenceIn(configuration.subarray(4)) ?? configured(configuration))
  const s = told ?? (first && sequenceIn(first))
  if (!s) return { webCodec: 'av01.0.08M.08', scan: 'progressive' }
  const { profile, level, tier, ...rest } = s
  return {
    ...rest,
    // it has no tools for fields
    scan: 'progressive',
    profile: profiles[profile] ?? null,
    // 2.0 and on, four of each (A.3)
    ...(level < 24 ? { level: `${2 + (level >> 2)}.${level & 3}` } : {}),
    webCodec: `av01.${profile}.${two(level)}${tier ? 'H' : 'M'}.${two(s.bitDepth)}`,
  }
}
