import { BitReader } from '../../bits'
import type { Chroma, Colour } from '../../media/media'
import type { PictureDescription } from '../codec'

// What VP9 streams say of their pictures: in the first frame, in a box of MP4 files, in a list of Matroska's.

interface Said {
  readonly profile: number
  readonly level?: number
  readonly bitDepth: number
  readonly chroma: Chroma
  readonly width?: number
  readonly height?: number
  readonly colour?: Colour | null
}

/** Matrices of ITU-T H.273 by color_space (VP9 bitstream specification 7.2.2); primaries and curves are not told. */
const matrices: Readonly<Record<number, number>> = { 1: 6, 2: 1, 3: 6, 4: 7, 5: 9, 7: 0 }
const unspecified = 2

/** The uncompressed header of a key frame (6.2, 7.2); null of any other. */
function keyFrame(bytes: Uint8Array): Said | null {
  const r = new BitReader(bytes)
  if (r.u(2) !== 2) return null
  const profile = r.u(1) + 2 * r.u(1)
  if (profile === 3) r.skip(1)
  const again = r.flag()
  const other = r.flag()
  r.skip(2)
  if (again || other || r.u(24) !== 0x498342) return null
  const bitDepth = profile >= 2 ? (r.flag() ? 12 : 10) : 8
  const space = r.u(3)
  let fullRange = true
  let chroma: Chroma = '4:4:4'
  if (space !== 7) {
    fullRange = r.flag()
    if (profile % 2) {
      const [x, y] = [r.flag(), r.flag()]
      r.skip(1)
      // halved in height alone is a shape that has no name here
      chroma = x ? (y ? '4:2:0' : '4:2:2') : '4:4:4'
    } else chroma = '4:2:0'
  } else r.skip(1)
  const matrix = matrices[space] ?? unspecified
  const colour = { primaries: unspecified, transfer: unspecified, matrix, fullRange }
  const [width, height] = [r.u(16) + 1, r.u(16) + 1]
  return { profile, bitDepth, chroma, width, height, colour: matrix === unspecified && !fullRange ? null : colour }
}

const chromas: readonly (Chroma | undefined)[] = ['4:2:0', '4:2:0', '4:2:2', '4:4:4']

/** The VP Codec Configuration Box, version 1. */
function configured(bytes: Uint8Array): Said | null {
  const r = new BitReader(bytes)
  r.skip(32)
  const [profile, level, bitDepth] = [r.u(8), r.u(8), r.u(4)]
  const chroma = chromas[r.u(3)]
  const fullRange = r.flag()
  const [primaries, transfer, matrix] = [r.u(8), r.u(8), r.u(8)]
  if (r.left < 0 || !chroma) return null
  return { profile, level, bitDepth, chroma, colour: { primaries, transfer, matrix, fullRange } }
}

/** The list of features that Matroska keeps (identifier, length, value). */
function listed(bytes: Uint8Array): Said | null {
  const found = new Map<number, number>()
  for (let i = 0; i + 2 < bytes.length; i += 2 + bytes[i + 1]!)
    if (bytes[i + 1] === 1) found.set(bytes[i]!, bytes[i + 2]!)
  const [profile, level, bitDepth, chroma] = [1, 2, 3, 4].map((id) => found.get(id))
  const shape = chroma === undefined ? undefined : chromas[chroma]
  if (profile === undefined || bitDepth === undefined || !shape) return null
  return { profile, bitDepth, chroma: shape, ...(level === undefined ? {} : { level }) }
}

const two = (v: number) => String(v).padStart(2, '0')

const sensible = ({ profile, bitDepth, level = 0 }: Said) =>
  profile <= 3 && [8, 10, 12].includes(bitDepth) && level < 100

/** What a VP9 stream says of its pictures. */
export function describeVp9(configuration: Uint8Array | null, first: Uint8Array | null): PictureDescription {
  const said =
    (configuration && (configuration[1] === 0 ? configured(configuration) : listed(configuration))) ??
    (first && keyFrame(first))
  if (!said || !sensible(said)) return { webCodec: 'vp09.00.40.08', scan: 'progressive' }
  const { profile, level, ...rest } = said
  return {
    ...rest,
    // it has no tools for fields
    scan: 'progressive',
    profile: `Profile ${profile}`,
    ...(level ? { level: (level / 10).toFixed(1) } : {}),
    webCodec: `vp09.${two(profile)}.${two(level || 40)}.${two(said.bitDepth)}`,
  }
}
