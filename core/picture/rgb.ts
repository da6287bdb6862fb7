import { luma709, type LumaWeights } from '../media/colour'
import { emptyPicture, toChroma422, type Picture } from './picture'

/**
 * A picture as R′, G′, B′, one after the other: a display signal, black at 0 and white at 1. What lies below black or
 * above white stays there.
 */
export interface RgbSignal {
  readonly width: number
  readonly height: number
  readonly rgb: Float32Array
}

/**
 * A narrow-range picture as R′, G′, B′ (ITU-R BT.709 3.2 … 3.5, BT.601 and BT.2020 with their weights). Chroma is sited
 * with every other sample of luma; between them it is their mean.
 */
export function rgbOf(picture: Picture, [kr, kb]: LumaWeights = luma709): RgbSignal {
  const { width, height, bitDepth, planes } = toChroma422(picture)
  const [Y, U, V] = planes
  const unit = 1 << (bitDepth - 8)
  const cw = (width + 1) >> 1
  const kg = 1 - kr - kb
  const [black, grey] = [16 * unit, 128 * unit]
  const luma = 1 / (219 * unit)
  const red = (2 * (1 - kr)) / (224 * unit)
  const blue = (2 * (1 - kb)) / (224 * unit)
  const [greenOfBlue, greenOfRed] = [(-kb / kg) * blue, (-kr / kg) * red]
  const rgb = new Float32Array(width * height * 3)
  let o = 0
  for (let y = 0; y < height; y++) {
    const [line, chroma] = [y * width, y * cw]
    for (let x = 0; x < width; x++) {
      const a = chroma + (x >> 1)
      const b = x & 1 && (x >> 1) + 1 < cw ? a + 1 : a
      const cb = (U[a]! + U[b]!) / 2 - grey
      const cr = (V[a]! + V[b]!) / 2 - grey
      const l = (Y[line + x]! - black) * luma
      rgb[o] = l + red * cr
      rgb[o + 1] = l + greenOfBlue * cb + greenOfRed * cr
      rgb[o + 2] = l + blue * cb
      o += 3
    }
  }
  return { width, height, rgb }
}

/**
 * R′, G′, B′ as a narrow-range 4:2:2 picture. Chroma is weighed 1:2:1 around the sample it is sited with. Codes that
 * interfaces keep for themselves (ITU-R BT.656, BT.1120: the lowest and highest of 8 bits) are not used.
 */
export function pictureOfRgb(
  { width, height, rgb }: RgbSignal,
  bitDepth: 8 | 10,
  [kr, kb]: LumaWeights = luma709,
): Picture {
  const out = emptyPicture(width, height, '4:2:2', bitDepth)
  const [Y, U, V] = out.planes
  const unit = 1 << (bitDepth - 8)
  const kg = 1 - kr - kb
  const cw = (width + 1) >> 1
  const most = 255 * unit - 1
  const code = (v: number) => {
    const scaled = v * unit + 0.5
    return scaled < unit ? unit : scaled >= most ? most : scaled | 0
  }
  const [blue, red] = [224 / (2 * (1 - kb)), 224 / (2 * (1 - kr))]
  // differences of one line, each end doubled
  const cb = new Float32Array(width + 2)
  const cr = new Float32Array(width + 2)
  for (let y = 0; y < height; y++) {
    let at = y * width * 3
    for (let x = 0; x < width; x++) {
      const r = rgb[at]!
      const b = rgb[at + 2]!
      const l = kr * r + kg * rgb[at + 1]! + kb * b
      Y[y * width + x] = code(16 + 219 * l)
      cb[x + 1] = b - l
      cr[x + 1] = r - l
      at += 3
    }
    for (const d of [cb, cr]) {
      d[0] = d[1]!
      d[width + 1] = d[width]!
    }
    for (let x = 0; x < cw; x++) {
      const k = 2 * x + 1
      U[y * cw + x] = code(128 + (blue * (cb[k - 1]! + 2 * cb[k]! + cb[k + 1]!)) / 4)
      V[y * cw + x] = code(128 + (red * (cr[k - 1]! + 2 * cr[k]! + cr[k + 1]!)) / 4)
    }
  }
  return out
}
