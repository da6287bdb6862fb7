import { scalePlane, type ScaleJob, type Scaler } from '../kernel/scale'
import { blackPicture, chromaSize, emptyPicture, type Picture } from './picture'

/** How a picture meets a raster of another shape. `letterbox` also stands for pillarbox: bars where they are needed. */
export type Fit = 'letterbox' | 'crop' | 'stretch' | 'unscaled'

export interface Placement {
  /** Part of the source used. */
  readonly from: { x: number; y: number; width: number; height: number }
  /** Where it lands in the target. */
  readonly to: { x: number; y: number; width: number; height: number }
}

const even = (v: number) => Math.round(v / 2) * 2

/**
 * Where a picture of `width`×`height` (pixel aspect `aspect`) lands in a target raster of square pixels, to whole
 * chroma samples.
 */
export function placement(
  width: number,
  height: number,
  aspect: number,
  targetWidth: number,
  targetHeight: number,
  fit: Fit,
): Placement {
  const whole = { x: 0, y: 0, width, height }
  const target = { x: 0, y: 0, width: targetWidth, height: targetHeight }
  const shape = (width * aspect) / height
  const wanted = targetWidth / targetHeight
  if (fit === 'unscaled') {
    const w = Math.min(width, targetWidth)
    const h = Math.min(height, targetHeight)
    return {
      from: { x: even((width - w) / 2), y: even((height - h) / 2), width: w, height: h },
      to: { x: even((targetWidth - w) / 2), y: even((targetHeight - h) / 2), width: w, height: h },
    }
  }
  if (fit === 'stretch' || Math.abs(shape / wanted - 1) < 1e-3) return { from: whole, to: target }
  if (fit === 'letterbox') {
    const w = shape > wanted ? targetWidth : even(targetHeight * shape)
    const h = shape > wanted ? even(targetWidth / shape) : targetHeight
    return { from: whole, to: { x: even((targetWidth - w) / 2), y: even((targetHeight - h) / 2), width: w, height: h } }
  }
  const w = shape > wanted ? even((width * wanted) / shape) : width
  const h = shape > wanted ? height : even((height * shape) / wanted)
  return { from: { x: even((width - w) / 2), y: even((height - h) / 2), width: w, height: h }, to: target }
}

/** Copies a part of a plane as it is, or scales it. */
function bring(job: ScaleJob): void {
  const { src, stride, dst, dstStride, from, to } = job
  if (from.width !== to.width || from.height !== to.height) {
    scalePlane(job)
    return
  }
  for (let y = 0; y < from.height; y++) {
    const at = (from.y + y) * stride + from.x
    dst.set(src.subarray(at, at + from.width), (to.y + y) * dstStride + to.x)
  }
}

/** What a picture is brought to. */
export interface Raster {
  readonly width: number
  readonly height: number
  readonly fit: Fit
  /** How much wider than high the picture's own pixels are, against those of the raster. */
  readonly aspect?: number
  readonly scaler?: Scaler
  /** Whose lines they are, where they are a field's. */
  readonly lines?: 'upper' | 'lower'
}

/** Brings a picture into another raster. Bars are black. The same picture comes back when nothing has to change. */
export function fitPicture(p: Picture, raster: Raster): Picture {
  const { width, height, fit, aspect = 1, scaler = 'lanczos', lines } = raster
  if (p.width === width && p.height === height && Math.abs(aspect - 1) < 1e-3) return p
  const place = placement(p.width, p.height, aspect, width, height, fit)
  const filled = place.to.width === width && place.to.height === height
  const out = (filled ? emptyPicture : blackPicture)(width, height, p.chroma, p.bitDepth)
  const c = chromaSize(p)
  const oc = chromaSize(out)
  const sy = p.chroma === '4:2:0' ? 2 : 1
  const half = (r: Placement['from']) => ({
    x: r.x >> 1,
    y: Math.floor(r.y / sy),
    width: (r.width + 1) >> 1,
    height: Math.ceil(r.height / sy),
  })
  const luma = { stride: p.width, height: p.height, dstStride: width, from: place.from, to: place.to }
  const chroma = {
    ...{ stride: c.width, height: c.height, dstStride: oc.width },
    ...{ from: half(place.from), to: half(place.to) },
  }
  // the middle of a field's first line is a quarter of a line off that of its picture: in both rasters
  const away = lines === undefined ? 0 : ((1 - place.from.height / place.to.height) / 4) * (lines === 'upper' ? 1 : -1)
  for (const i of [0, 1, 2] as const)
    bring({ ...(i === 0 ? luma : chroma), src: p.planes[i], dst: out.planes[i], scaler, shift: away })
  return out
}
