import { parseRate } from '../time/rate'

/** A pixel aspect, `16:11`, as a number: how much wider than high a pixel is. 1 when it makes no sense. */
export function aspectValue(aspect: string): number {
  const r = parseRate(aspect.replace(':', '/'))
  return r ? r.num / r.den : 1
}

/** A pixel aspect by how much wider than high a pixel is: in the smallest numbers that come near it. */
export function aspectOf(value: number): string {
  for (let v = 1; v <= 200; v++) {
    const h = Math.round(value * v)
    if (h > 0 && Math.abs(h / v - value) < 1e-5) return `${h}:${v}`
  }
  return `${Math.max(1, Math.round(value * 10_000))}:10000`
}

/**
 * How much wider pixels of one kind are than those of another; 1 where they are two usual spellings of the same shape,
 * which are a fiftieth apart.
 */
export function widerThan(own: string, other: string): number {
  const wider = aspectValue(own) / aspectValue(other)
  return Math.abs(wider - 1) < 0.03 ? 1 : wider
}

/** Pictures by their raster and the shape of its pixels. */
interface Shaped {
  readonly width: number
  readonly height: number
  readonly pixelAspect: string
}

/** How wide pixels of pictures are against those of the raster that they are brought to. */
export const pixelsAgainst = (own: Shaped, raster: Shaped): number =>
  own.width === raster.width && own.height === raster.height
    ? widerThan(own.pixelAspect, raster.pixelAspect)
    : aspectValue(own.pixelAspect) / aspectValue(raster.pixelAspect)

/** The two sides of a pixel aspect; 1 and 1 when it makes no sense. */
export function aspectParts(aspect: string): readonly [number, number] {
  const r = parseRate(aspect.replace(':', '/'))
  return r ? [r.num, r.den] : [1, 1]
}

/** How wide to how high pictures are shown; 16:9 where there are none. */
export function shapeOf(v: { readonly width: number; readonly height: number; readonly pixelAspect: string } | null) {
  return v && v.height > 0 ? (v.width * aspectValue(v.pixelAspect)) / v.height : 16 / 9
}
