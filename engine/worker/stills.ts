import sharp from 'sharp'
import type { LumaWeights } from '../../core/media/colour'
import { differenceOf } from '../../core/picture/difference'
import { toRgb, type Picture } from '../../core/picture/picture'
import { waveformOf, waveformSize } from '../../core/picture/waveform'
import type { Looked } from './messages'

/** A picture as JPEG, at most `width` wide. */
export function jpegOf(picture: Picture, width: number, weights: LumaWeights): Promise<Buffer> {
  const { rgb, ...size } = toRgb(picture, width, weights)
  return sharp(rgb, { raw: { ...size, channels: 3 } })
    .jpeg({ quality: 82 })
    .toBuffer()
}

/** A picture as PNG, at its own size. */
export function pngOf(picture: Picture, weights: LumaWeights): Promise<Buffer> {
  const { rgb, ...size } = toRgb(picture, picture.width, weights)
  return sharp(rgb, { raw: { ...size, channels: 3 } })
    .png({ compressionLevel: 3 })
    .toBuffer()
}

/** The waveform of a picture as PNG, white where samples are and clear elsewhere, with what it measures. */
export async function waveformImage(picture: Picture, weights: LumaWeights): Promise<Looked> {
  const { density, ...figures } = waveformOf(picture, weights)
  const raw = new Uint8Array(density.length * 2)
  density.forEach((d, i) => raw.set([255, d], i * 2))
  const size = { width: waveformSize.columns, height: waveformSize.levels }
  return {
    image: await sharp(raw, { raw: { ...size, channels: 2 } })
      .png()
      .toBuffer(),
    figures,
  }
}

/** How far another picture is from one, as PNG, with the figures. */
export async function differenceImage(picture: Picture, other: Picture, wider: number): Promise<Looked> {
  const { seen, width, height, ...figures } = differenceOf(picture, other, wider)
  return {
    image: await sharp(seen, { raw: { width, height, channels: 1 } })
      .png({ compressionLevel: 3 })
      .toBuffer(),
    figures,
  }
}
