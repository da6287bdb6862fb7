import sharp from 'sharp'
import { toRgb, type Picture } from '../../core/picture/picture'
import { shrink } from '../../core/picture/scale'

/** A picture as JPEG, at most `width` wide. */
export function jpegOf(picture: Picture, width: number): Promise<Buffer> {
  const small = shrink(picture, width)
  return sharp(toRgb(small), { raw: { width: small.width, height: small.height, channels: 3 } }).jpeg({ quality: 82 }).toBuffer()
}
