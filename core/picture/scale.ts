import { blackPicture, chromaSize, type Picture, type Plane } from './picture'

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

/**
 * For each target sample: the first source sample, and weights in 1/16384. A triangle filter as wide as the step when
 * shrinking.
 */
interface Taps {
  readonly first: Int32Array
  readonly weights: Int32Array
  readonly count: number
}

function taps(from: number, to: number, offset: number, limit: number): Taps {
  const step = from / to
  const radius = Math.max(1, step)
  const count = Math.ceil(radius * 2) + 1
  const first = new Int32Array(to)
  const weights = new Float32Array(to * count)
  for (let i = 0; i < to; i++) {
    const centre = (i + 0.5) * step - 0.5
    const start = Math.ceil(centre - radius)
    const weight = (k: number) => Math.max(0, 1 - Math.abs(start + k - centre) / radius)
    let sum = 0
    for (let k = 0; k < count; k++) sum += weight(k)
    // the weight of samples outside is laid on the edge sample
    const base = Math.max(0, Math.min(limit - count, start + offset))
    for (let k = 0; k < count; k++)
      weights[i * count + Math.max(0, Math.min(limit - 1, start + offset + k)) - base]! += weight(k) / sum
    first[i] = base
  }
  return { first, weights: wholeWeights(weights, count), count }
}

/** Weights as integers that add up to exactly 16384 for each target sample; rounding is made up on the largest. */
function wholeWeights(weights: Float32Array, count: number): Int32Array {
  const out = Int32Array.from(weights, (w) => Math.round(w * 16384))
  for (let at = 0; at < out.length; at += count) {
    let sum = 0
    let largest = at
    for (let k = at; k < at + count; k++) {
      sum += out[k]!
      if (out[k]! > out[largest]!) largest = k
    }
    out[largest]! += 16384 - sum
  }
  return out
}

interface PlaneJob {
  readonly src: Plane
  readonly stride: number
  readonly height: number
  readonly dst: Plane
  readonly dstStride: number
}

function scalePlane(job: PlaneJob, from: Placement['from'], to: Placement['to']): void {
  const { src, stride, dst, dstStride } = job
  if (from.width === to.width && from.height === to.height) {
    for (let y = 0; y < from.height; y++)
      dst.set(
        src.subarray((from.y + y) * stride + from.x, (from.y + y) * stride + from.x + from.width),
        (to.y + y) * dstStride + to.x,
      )
    return
  }
  const need = (a: number, b: number) => Math.ceil(Math.max(1, a / b) * 2) + 1
  if (stride < need(from.width, to.width) || job.height < need(from.height, to.height)) {
    for (let y = 0; y < to.height; y++) {
      for (let x = 0; x < to.width; x++) {
        dst[(to.y + y) * dstStride + to.x + x] =
          src[
            (from.y + Math.floor((y * from.height) / to.height)) * stride +
              from.x +
              Math.floor((x * from.width) / to.width)
          ]!
      }
    }
    return
  }
  const h = taps(from.width, to.width, from.x, stride)
  const v = taps(from.height, to.height, from.y, job.height)
  // a ring of lines already filtered across (values ×64), as many as one target line needs
  const ring = Array.from({ length: v.count }, () => new Int32Array(to.width))
  const held = new Int32Array(v.count).fill(-1)
  const acc = new Int32Array(to.width)
  for (let y = 0; y < to.height; y++) {
    acc.fill(1 << 19)
    for (let k = 0; k < v.count; k++) {
      const w = v.weights[y * v.count + k]!
      if (w === 0) continue
      const sy = v.first[y]! + k
      const slot = sy % v.count
      if (held[slot] !== sy) {
        if (src instanceof Uint8Array) across8(src, sy * stride, h, ring[slot]!)
        else across16(src, sy * stride, h, ring[slot]!)
        held[slot] = sy
      }
      addLine(acc, ring[slot]!, w)
    }
    if (dst instanceof Uint8Array) putLine8(dst, (to.y + y) * dstStride + to.x, acc)
    else putLine16(dst, (to.y + y) * dstStride + to.x, acc)
  }
}

// The inner loops stand alone, once for each kind of sample, so that each is compiled for exactly that kind.
function across8(src: Uint8Array, row: number, h: Taps, out: Int32Array): void {
  const { first, weights, count } = h
  const n = out.length
  if (count === 4) {
    for (let x = 0, w = 0; x < n; x++, w += 4) {
      const at = row + first[x]!
      out[x] =
        (src[at]! * weights[w]! +
          src[at + 1]! * weights[w + 1]! +
          src[at + 2]! * weights[w + 2]! +
          src[at + 3]! * weights[w + 3]!) >>
        8
    }
    return
  }
  for (let x = 0, w = 0; x < n; x++) {
    let sum = 0
    for (let j = 0, at = row + first[x]!; j < count; j++) sum = (sum + src[at + j]! * weights[w++]!) | 0
    out[x] = sum >> 8
  }
}

function across16(src: Uint16Array, row: number, h: Taps, out: Int32Array): void {
  const { first, weights, count } = h
  for (let x = 0, w = 0; x < out.length; x++) {
    let sum = 0
    for (let j = 0, at = row + first[x]!; j < count; j++) sum = (sum + src[at + j]! * weights[w++]!) | 0
    out[x] = sum >> 8
  }
}

function addLine(acc: Int32Array, line: Int32Array, weight: number): void {
  for (let x = 0; x < acc.length; x++) acc[x] = (acc[x]! + Math.imul(line[x]!, weight)) | 0
}

function putLine8(dst: Uint8Array, at: number, acc: Int32Array): void {
  for (let x = 0; x < acc.length; x++) dst[at + x] = acc[x]! >> 20
}

function putLine16(dst: Uint16Array, at: number, acc: Int32Array): void {
  for (let x = 0; x < acc.length; x++) dst[at + x] = acc[x]! >> 20
}

/** Brings a picture into another raster. Bars are black. The same picture comes back when nothing has to change. */
export function fitPicture(p: Picture, width: number, height: number, fit: Fit, aspect = 1): Picture {
  if (p.width === width && p.height === height && Math.abs(aspect - 1) < 1e-3) return p
  const out = blackPicture(width, height, p.chroma, p.bitDepth)
  const place = placement(p.width, p.height, aspect, width, height, fit)
  const c = chromaSize(p)
  const oc = chromaSize(out)
  scalePlane(
    { src: p.planes[0], stride: p.width, height: p.height, dst: out.planes[0], dstStride: width },
    place.from,
    place.to,
  )
  const sy = p.chroma === '4:2:0' ? 2 : 1
  const half = (r: Placement['from']) => ({
    x: r.x >> 1,
    y: Math.floor(r.y / sy),
    width: (r.width + 1) >> 1,
    height: Math.ceil(r.height / sy),
  })
  for (const i of [1, 2] as const) {
    scalePlane(
      { src: p.planes[i], stride: c.width, height: c.height, dst: out.planes[i], dstStride: oc.width },
      half(place.from),
      half(place.to),
    )
  }
  return out
}
