import { promisify } from 'node:util'
import { deflate, inflate } from 'node:zlib'
import sharp, { type Metadata } from 'sharp'
import type { StillLibrary } from '../../core/stills/still'

/** How hard PNG files are packed: more takes longer than it saves. */
const packing = 3

const [packed, unpacked] = [promisify(deflate), promisify(inflate)]

/** What a still says of itself that is not gone by. */
function notesOf({ orientation = 1, pages = 1, icc, space, depth }: Metadata): string[] {
  return [
    ...(orientation > 1 ? ['It says that it is to be turned or mirrored; it is taken as it stands.'] : []),
    ...(pages > 1 ? [`It holds ${pages} pictures, of which the first is taken.`] : []),
    ...(icc ? ['It has a colour profile, which is not gone by: its values are taken as they stand.'] : []),
    ...(space === 'cmyk' ? ['It is in the colours of inks; as light they are a guess.'] : []),
    ...(depth === 'uchar' || depth === 'ushort'
      ? []
      : [`Its values are of kind “${depth}”; 8 bits of them are taken.`]),
  ]
}

/** Common still images, by sharp; zlib by the runtime, in threads of its own. */
export const stillLibrary: StillLibrary = {
  deflate: (bytes) => packed(bytes),
  inflate: (bytes, maxOutputLength) => unpacked(bytes, { maxOutputLength }).catch(() => null),
  async decode(bytes) {
    // a profile would have its values converted, in silence and by one machine otherwise than by another
    const image = sharp(bytes, { failOn: 'error', limitInputPixels: 1 << 28, ignoreIcc: true })
    const said = await image.metadata()
    const deep = said.depth === 'ushort'
    const { data, info } = await image
      .toColourspace(deep ? 'rgb16' : 'srgb')
      .removeAlpha()
      .raw({ depth: deep ? 'ushort' : 'uchar' })
      .toBuffer({ resolveWithObject: true })
    const samples = deep ? new Uint16Array(data.buffer, data.byteOffset, data.length >> 1) : data
    return {
      width: info.width,
      height: info.height,
      samples,
      bitDepth: deep ? 16 : 8,
      alpha: said.hasAlpha,
      notes: notesOf(said),
    }
  },
  encode(kind, { width, height, samples }) {
    const image = sharp(samples, { raw: { width, height, channels: 3 } }).toColourspace(
      samples instanceof Uint16Array ? 'rgb16' : 'srgb',
    )
    if (kind === 'png') return image.png({ compressionLevel: packing }).toBuffer()
    if (kind === 'tiff') return image.tiff({ compression: 'none' }).toBuffer()
    return image.jpeg({ quality: 95, chromaSubsampling: '4:4:4' }).toBuffer()
  },
}
