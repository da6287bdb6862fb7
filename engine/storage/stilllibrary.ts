import { promisify } from 'node:util'
import { deflate, inflate } from 'node:zlib'
import sharp from 'sharp'
import type { StillLibrary } from '../../core/stills/still'

/** How hard PNG files are packed: more takes longer than it saves. */
const packing = 3

const [packed, unpacked] = [promisify(deflate), promisify(inflate)]

/** Common still images, by sharp; zlib by the runtime, in threads of its own. */
export const stillLibrary: StillLibrary = {
  deflate: (bytes) => packed(bytes),
  inflate: (bytes, maxOutputLength) => unpacked(bytes, { maxOutputLength }).catch(() => null),
  async decode(bytes) {
    const image = sharp(bytes, { failOn: 'error', limitInputPixels: 1 << 28 })
    const { depth, hasAlpha } = await image.metadata()
    const deep = depth === 'ushort'
    const { data, info } = await image
      .toColourspace(deep ? 'rgb16' : 'srgb')
      .removeAlpha()
      .raw({ depth: deep ? 'ushort' : 'uchar' })
      .toBuffer({ resolveWithObject: true })
    const samples = deep ? new Uint16Array(data.buffer, data.byteOffset, data.length >> 1) : data
    return { width: info.width, height: info.height, samples, bitDepth: deep ? 16 : 8, alpha: hasAlpha }
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
