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
export function chromaSize(p: Pick<Picture, 'width' | 'height' | 'chroma'>): { width: number, height: number } {
  return { width: (p.width + 1) >> 1, height: p.chroma === '4:2:0' ? (p.height + 1) >> 1 : p.height }
}

/** A black picture. */
export function blackPicture(width: number, height: number, chroma: Picture['chroma'], bitDepth: 8 | 10): Picture {
  const c = chromaSize({ width, height, chroma })
  const make = (n: number, v: number): Plane => bitDepth === 8 ? new Uint8Array(n).fill(v) : new Uint16Array(n).fill(v << 2)
  return { width, height, chroma, bitDepth, planes: [make(width * height, 16), make(c.width * c.height, 128), make(c.width * c.height, 128)] }
}

/** A picture over the bytes of an I420 frame (8 bit, planes one after the other); no copy is made. */
export function pictureFromI420(bytes: Uint8Array, width: number, height: number): Picture {
  const y = width * height
  const c = ((width + 1) >> 1) * ((height + 1) >> 1)
  if (bytes.length < y + 2 * c) fail('picture.size', `A picture of ${width}×${height} needs ${y + 2 * c} bytes, ${bytes.length} came.`)
  return { width, height, chroma: '4:2:0', bitDepth: 8, planes: [bytes.subarray(0, y), bytes.subarray(y, y + c), bytes.subarray(y + c, y + 2 * c)] }
}

/** The bytes of a picture as I420, for an encoder. */
export function i420Bytes(p: Picture): Uint8Array {
  const q = toChroma420(toDepth(p, 8))
  const [y, u, v] = q.planes
  const out = new Uint8Array(y.length + u.length + v.length)
  out.set(y, 0)
  out.set(u, y.length)
  out.set(v, y.length + u.length)
  return out
}

/** Changes the depth: 8 to 10 bits is a shift (BT.709 7.2: codes ×4); 10 to 8 rounds. */
export function toDepth(p: Picture, bitDepth: 8 | 10): Picture {
  if (p.bitDepth === bitDepth) return p
  const convert = (plane: Plane): Plane => {
    const n = plane.length
    if (bitDepth === 10) {
      const out = new Uint16Array(n)
      for (let i = 0; i < n; i++) out[i] = plane[i]! << 2
      return out
    }
    const out = new Uint8Array(n)
    for (let i = 0; i < n; i++) {
      const v = (plane[i]! + 2) >> 2
      out[i] = v > 255 ? 255 : v
    }
    return out
  }
  return { ...p, bitDepth, planes: [convert(p.planes[0]), convert(p.planes[1]), convert(p.planes[2])] }
}

/** 4:2:0 to 4:2:2: each chroma line is sited midway between two luma lines, so new lines weigh 3:1 (H.264 6.2). */
export function toChroma422(p: Picture): Picture {
  if (p.chroma === '4:2:2') return p
  const { width: cw, height: ch } = chromaSize(p)
  const up = (plane: Plane): Plane => {
    const out = p.bitDepth === 8 ? new Uint8Array(cw * p.height) : new Uint16Array(cw * p.height)
    for (let y = 0; y < p.height; y++) {
      const near = (y >> 1) * cw
      const far = Math.max(0, Math.min(ch - 1, (y >> 1) + (y & 1 ? 1 : -1))) * cw
      const at = y * cw
      for (let x = 0; x < cw; x++) out[at + x] = (3 * plane[near + x]! + plane[far + x]! + 2) >> 2
    }
    return out
  }
  return { ...p, chroma: '4:2:2', planes: [p.planes[0], up(p.planes[1]), up(p.planes[2])] }
}

/** 4:2:2 to 4:2:0: pairs of chroma lines are averaged. */
export function toChroma420(p: Picture): Picture {
  if (p.chroma === '4:2:0') return p
  const cw = (p.width + 1) >> 1
  const ch = (p.height + 1) >> 1
  const down = (plane: Plane): Plane => {
    const out = p.bitDepth === 8 ? new Uint8Array(cw * ch) : new Uint16Array(cw * ch)
    for (let y = 0; y < ch; y++) {
      const a = 2 * y * cw
      const b = Math.min(2 * y + 1, p.height - 1) * cw
      for (let x = 0; x < cw; x++) out[y * cw + x] = (plane[a + x]! + plane[b + x]! + 1) >> 1
    }
    return out
  }
  return { ...p, chroma: '4:2:0', planes: [p.planes[0], down(p.planes[1]), down(p.planes[2])] }
}

/** Mean of absolute luma differences of two pictures of one size, in 8-bit steps. */
export function lumaDifference(a: Picture, b: Picture): number {
  if (a.width !== b.width || a.height !== b.height) return 255
  const [pa, pb] = [a.planes[0], b.planes[0]]
  const [sa, sb] = [a.bitDepth - 8, b.bitDepth - 8]
  let sum = 0
  for (let i = 0; i < pa.length; i++) sum += Math.abs((pa[i]! >> sa) - (pb[i]! >> sb))
  return sum / pa.length
}

/** 8-bit RGB of a narrow-range BT.709 picture, for stills and previews. */
export function toRgb(p: Picture): Uint8Array {
  const q = toDepth(p, 8)
  const cw = (q.width + 1) >> 1
  const shiftY = q.chroma === '4:2:0' ? 1 : 0
  const out = new Uint8ClampedArray(q.width * q.height * 3)
  const [Y, U, V] = q.planes
  let o = 0
  for (let y = 0; y < q.height; y++) {
    const row = (y >> shiftY) * cw
    for (let x = 0; x < q.width; x++) {
      const l = 1.16438 * (Y[y * q.width + x]! - 16)
      const cb = U[row + (x >> 1)]! - 128
      const cr = V[row + (x >> 1)]! - 128
      out[o++] = l + 1.79274 * cr
      out[o++] = l - 0.21325 * cb - 0.53291 * cr
      out[o++] = l + 2.1124 * cb
    }
  }
  return new Uint8Array(out.buffer)
}

/**
 * A picture of full-range R′, G′, B′ (0 … 65535, one after the other) as narrow-range 4:2:2: BT.709 from 720 lines on, else BT.601. Chroma is
 * the mean of its two samples, sited with the first.
 */
export function pictureFromRgb(rgb: Uint16Array, width: number, height: number, bitDepth: 8 | 10): Picture {
  if (rgb.length < width * height * 3) fail('picture.size', `A picture of ${width}×${height} needs ${width * height * 3} values, ${rgb.length} came.`)
  const [kr, kb] = height >= 720 ? [0.2126, 0.0722] : [0.299, 0.114]
  const kg = 1 - kr - kb
  const unit = 1 << (bitDepth - 8)
  const cw = (width + 1) >> 1
  const make = (n: number): Plane => (bitDepth === 8 ? new Uint8Array(n) : new Uint16Array(n))
  const [Y, U, V] = [make(width * height), make(cw * height), make(cw * height)]
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x += 2) {
      let [cb, cr] = [0, 0]
      const pair = Math.min(2, width - x)
      for (let k = 0; k < pair; k++) {
        const at = (y * width + x + k) * 3
        const [r, g, b] = [rgb[at]! / 65535, rgb[at + 1]! / 65535, rgb[at + 2]! / 65535]
        const l = kr * r + kg * g + kb * b
        Y[y * width + x + k] = Math.round((16 + 219 * l) * unit)
        cb += (b - l) / (2 * (1 - kb))
        cr += (r - l) / (2 * (1 - kr))
      }
      U[y * cw + (x >> 1)] = Math.round((128 + (224 * cb) / pair) * unit)
      V[y * cw + (x >> 1)] = Math.round((128 + (224 * cr) / pair) * unit)
    }
  }
  return { width, height, chroma: '4:2:2', bitDepth, planes: [Y, U, V] }
}
