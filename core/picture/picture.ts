import { deepen, difference, dither, downChroma, flatten, upChroma } from '../kernel/planes'
import { preview } from '../kernel/preview'
import { luma709, type LumaWeights } from '../media/colour'
import { fail } from '../problem'

/** A picture in planes: luma, Cb, Cr, narrow range. 8-bit samples in bytes, 10-bit samples in 16-bit words. */
export interface Picture {
  readonly width: number
  readonly height: number
  readonly chroma: '4:2:0' | '4:2:2'
  readonly bitDepth: 8 | 10
  readonly planes: readonly [Plane, Plane, Plane]
}

export type Plane = Uint8Array | Uint16Array

/** Width and height of the chroma planes. */
export function chromaSize(p: Pick<Picture, 'width' | 'height' | 'chroma'>): { width: number; height: number } {
  return { width: (p.width + 1) >> 1, height: p.chroma === '4:2:0' ? (p.height + 1) >> 1 : p.height }
}

/** A black picture. */
export function blackPicture(width: number, height: number, chroma: Picture['chroma'], bitDepth: 8 | 10): Picture {
  const p = emptyPicture(width, height, chroma, bitDepth)
  p.planes.forEach((plane, i) => plane.fill((i === 0 ? 16 : 128) << (bitDepth - 8)))
  return p
}

/** A picture whose planes are still to be written; they stand one after the other in one buffer. */
export function emptyPicture(width: number, height: number, chroma: Picture['chroma'], bitDepth: 8 | 10): Picture {
  const y = width * height
  const size = chromaSize({ width, height, chroma })
  const c = size.width * size.height
  const all = bitDepth === 8 ? new Uint8Array(y + 2 * c) : new Uint16Array(y + 2 * c)
  const planes = [all.subarray(0, y), all.subarray(y, y + c), all.subarray(y + c)] as const
  return { width, height, chroma, bitDepth, planes }
}

/** The planes of a picture as one, where they stand one after the other in memory; null where they do not. */
function joined({ planes: [y, u, v] }: Picture): Plane | null {
  const end = (p: Plane) => p.byteOffset + p.byteLength
  if (y.buffer !== u.buffer || u.buffer !== v.buffer || end(y) !== u.byteOffset || end(u) !== v.byteOffset) return null
  const length = y.length + u.length + v.length
  return y instanceof Uint8Array
    ? new Uint8Array(y.buffer, y.byteOffset, length)
    : new Uint16Array(y.buffer, y.byteOffset, length)
}

/** A picture over the bytes of an I420 frame (8 bit, planes one after the other); no copy is made. */
export function pictureFromI420(bytes: Uint8Array, width: number, height: number): Picture {
  const y = width * height
  const c = ((width + 1) >> 1) * ((height + 1) >> 1)
  if (bytes.length < y + 2 * c)
    fail('picture.size', `A picture of ${width}×${height} needs ${y + 2 * c} bytes, ${bytes.length} came.`)
  return {
    width,
    height,
    chroma: '4:2:0',
    bitDepth: 8,
    planes: [bytes.subarray(0, y), bytes.subarray(y, y + c), bytes.subarray(y + c, y + 2 * c)],
  }
}

/** The bytes of a picture as I420, for an encoder: its own, where they stand so. */
export function i420Bytes(p: Picture): Uint8Array {
  const q = toChroma420(toDepth(p, 8))
  const whole = joined(q)
  if (whole instanceof Uint8Array) return whole
  const [y, u, v] = q.planes
  const out = new Uint8Array(y.length + u.length + v.length)
  out.set(y, 0)
  out.set(u, y.length)
  out.set(v, y.length + u.length)
  return out
}

const mapped = (p: Picture, of: (plane: Plane, i: number) => Plane): Picture['planes'] => [
  of(p.planes[0], 0),
  of(p.planes[1], 1),
  of(p.planes[2], 2),
]

/** Changes the depth: 8 to 10 bits is a shift; 10 to 8 rounds. */
export function toDepth(p: Picture, bitDepth: 8 | 10): Picture {
  if (p.bitDepth === bitDepth) return p
  const planes = mapped(p, (plane) => (plane instanceof Uint16Array ? flatten(plane) : deepen(plane)))
  return { ...p, bitDepth, planes }
}

/** A picture of 10 bits as a dithered one of 8, with the chroma that an encoder takes. */
export function dithered(p: Picture, chroma: Picture['chroma']): Picture {
  if (p.bitDepth === 8) return p
  const q = chroma === '4:2:0' ? toChroma420(p) : p
  const width = (i: number) => (i === 0 ? q.width : chromaSize(q).width)
  return { ...q, bitDepth: 8, planes: mapped(q, (plane, i) => dither(plane as Uint16Array, width(i))) }
}

/** 4:2:0 to 4:2:2; see {@link upChroma}. */
export function toChroma422(p: Picture): Picture {
  if (p.chroma === '4:2:2') return p
  const { width } = chromaSize(p)
  return { ...p, chroma: '4:2:2', planes: mapped(p, (c, i) => (i === 0 ? c : upChroma(c, width, p.height))) }
}

/** 4:2:2 to 4:2:0: pairs of chroma lines are averaged. */
export function toChroma420(p: Picture): Picture {
  if (p.chroma === '4:2:0') return p
  const { width } = chromaSize(p)
  return { ...p, chroma: '4:2:0', planes: mapped(p, (c, i) => (i === 0 ? c : downChroma(c, width))) }
}

/**
 * Mean of absolute differences of two pictures of one size, in 8-bit steps: of luma, or of a chroma plane when that is
 * more.
 */
export function pictureDifference(a: Picture, b: Picture): number {
  if (a.width !== b.width || a.height !== b.height) return 255
  const [p, q] = a.chroma === b.chroma ? [a, b] : [toChroma420(a), toChroma420(b)]
  return Math.max(...p.planes.map((plane, k) => difference(plane, q.planes[k]!) / plane.length))
}

/** A picture as 8-bit R′, G′, B′, one after the other. */
export interface RgbPicture {
  readonly rgb: Uint8Array
  readonly width: number
  readonly height: number
}

/** 8-bit R′G′B′ of a narrow-range picture, at most `width` wide, for stills and previews; see {@link preview}. */
export function toRgb(p: Picture, width: number = p.width, weights: LumaWeights = luma709): RgbPicture {
  const smaller = width < p.width
  const outWidth = smaller ? Math.max(2, width & ~1) : p.width
  const outHeight = smaller ? Math.max(2, Math.round((p.height * outWidth) / p.width) & ~1) : p.height
  const rgb = preview({ ...p, chromaLines: chromaSize(p).height, outWidth, outHeight, weights })
  return { rgb, width: outWidth, height: outHeight }
}
