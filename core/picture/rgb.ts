import { luma709, type LumaWeights } from '../media/colour'
import { fromRgb, toRgb } from '../kernel/rgb'
import { toChroma422, type Picture } from './picture'

/**
 * A picture as R′, G′, B′, one after the other: a display signal, black at 0 and white at 1. What lies below black or
 * above white stays there.
 */
export interface RgbSignal {
  readonly width: number
  readonly height: number
  readonly rgb: Float32Array
}

/** A narrow-range picture as R′, G′, B′ (ITU-R BT.709 3.2 … 3.5, BT.601 and BT.2020 with their weights). */
export function rgbOf(picture: Picture, weights: LumaWeights = luma709): RgbSignal {
  const { width, height, planes } = toChroma422(picture)
  return { width, height, rgb: toRgb(planes, { width, height }, weights) }
}

/** R′, G′, B′ as a narrow-range 4:2:2 picture. Codes that interfaces keep for themselves are not used. */
export function pictureOfRgb(signal: RgbSignal, bitDepth: 8 | 10, weights: LumaWeights = luma709): Picture {
  const { width, height, rgb } = signal
  return { width, height, chroma: '4:2:2', bitDepth, planes: fromRgb(rgb, { width, height }, bitDepth, weights) }
}
