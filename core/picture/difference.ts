import { fitPicture } from './scale'
import { chromaSize, toChroma422, toDepth, type Picture, type Plane } from './picture'

/** How far one picture is from another: to be seen, and in figures. */
export interface PictureDifference {
  readonly width: number
  readonly height: number
  /** By luma sample: the largest difference of luma, Cb and Cr there, four times as bright. */
  readonly seen: Uint8Array
  /** Of all samples, in steps of 8 bits; and per cent of the luma samples where anything differs. */
  readonly mean: number
  readonly largest: number
  readonly share: number
  /** Whether the other one had another raster, and was brought to this one's. */
  readonly scaled: boolean
  /** Whether they are of different depth or chroma, and were brought to the finer one. */
  readonly brought: boolean
}

/** How much brighter differences are shown than they are. */
export const differenceGain = 4

/** Two pictures of one raster, at the depth of the deeper one and with the chroma of the finer one. */
export function broughtAlike(a: Picture, b: Picture): readonly [Picture, Picture] {
  const depth = Math.max(a.bitDepth, b.bitDepth) as Picture['bitDepth']
  const bring = (x: Picture) => (a.chroma === b.chroma ? toDepth(x, depth) : toChroma422(toDepth(x, depth)))
  return [bring(a), bring(b)]
}

/**
 * Compares two pictures at the depth of the deeper one, and the chroma of the finer one. `wider`: how much wider the
 * pixels of the second are than those of the first, in whose raster they are compared.
 */
export function differenceOf(a: Picture, b: Picture, wider = 1): PictureDifference {
  const scaled = a.width !== b.width || a.height !== b.height
  const fitted = scaled ? fitPicture(b, { width: a.width, height: a.height, fit: 'letterbox', aspect: wider }) : b
  const fine = a.chroma !== b.chroma
  const [p, q] = broughtAlike(a, fitted)
  const { width, height } = p
  const unit = 1 << (p.bitDepth - 8)
  const chroma = chromaSize(p)
  const lines = p.chroma === '4:2:0' ? 2 : 1
  const seen = new Uint8Array(width * height)
  const apart = p.planes.map((plane, k) => {
    const other = q.planes[k]!
    return plane.map((v: number, i: number) => Math.abs(v - other[i]!))
  })
  let [sum, largest, different] = [0, 0, 0]
  for (const plane of apart)
    for (const d of plane) {
      sum += d
      if (d > largest) largest = d
    }
  const [Y, U, V] = apart as [Plane, Plane, Plane]
  for (let y = 0; y < height; y++) {
    const row = Math.floor(y / lines) * chroma.width
    for (let x = 0; x < width; x++) {
      const c = row + (x >> 1)
      const d = Math.max(Y[y * width + x]!, U[c]!, V[c]!)
      if (d > 0) different++
      seen[y * width + x] = Math.min(255, (d * differenceGain) / unit)
    }
  }
  return {
    ...{ width, height, seen, scaled, brought: fine || a.bitDepth !== b.bitDepth },
    mean: sum / apart.reduce((n, plane) => n + plane.length, 0) / unit,
    largest: largest / unit,
    share: (different / (width * height)) * 100,
  }
}

/**
 * The share of luma samples of a picture, 0 … 1, that are `least` 8-bit steps or more from those of another one; all of
 * them where the two are not of one kind.
 */
export function shareOther(a: Picture, b: Picture, least: number): number {
  const [p, q] = [a.planes[0], b.planes[0]]
  if (a.width !== b.width || a.height !== b.height || a.bitDepth !== b.bitDepth) return 1
  const from = least << (a.bitDepth - 8)
  let n = 0
  for (let i = 0; i < p.length; i++) if (Math.abs(p[i]! - q[i]!) >= from) n++
  return n / p.length
}
