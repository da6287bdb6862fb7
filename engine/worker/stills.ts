import sharp from 'sharp'
import { toRgb, type Picture } from '../../core/picture/picture'

/** A picture as JPEG, at most `width` wide. */
export function jpegOf(picture: Picture, width: number): Promise<Buffer> {
  const { rgb, ...size } = toRgb(picture, width)
  return sharp(rgb, { raw: { ...size, channels: 3 } })
    .jpeg({ quality: 82 })
    .toBuffer()
}
