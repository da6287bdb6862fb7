import { kernel } from './kernel'
import type { Samples2d } from './scale'

// Y′CbCr of 4:2:2 as R′, G′, B′ one after the other, and back: each plainly, and by the kernel where there is one; both
// the same, since every step is rounded to 32 bits.

type Planes<T extends Samples2d = Samples2d> = readonly [T, T, T]
type Size = { readonly width: number; readonly height: number }

const f = Math.fround

/** What codes and a colour system's weights of red and blue come to, of R′, G′, B′ from codes. */
function fromCodes(planes: Planes, [kr, kb]: readonly [number, number]): Float32Array {
  const unit = planes[0] instanceof Uint16Array ? 4 : 1
  const kg = 1 - kr - kb
  const red = (2 * (1 - kr)) / (224 * unit)
  const blue = (2 * (1 - kb)) / (224 * unit)
  return Float32Array.of(
    ...[16 * unit, 128 * unit, 1 / (219 * unit)],
    ...[red, (-kb / kg) * blue, (-kr / kg) * red, blue],
  )
}

/** R′, G′, B′ of a narrow-range picture; chroma is sited with every other sample, between them it is their mean. */
export function toRgbPlain(planes: Planes, { width, height }: Size, weights: readonly [number, number]): Float32Array {
  const [Y, U, V] = planes
  const c = fromCodes(planes, weights)
  const cw = (width + 1) >> 1
  const rgb = new Float32Array(width * height * 3)
  let o = 0
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const a = y * cw + (x >> 1)
      const b = x & 1 && (x >> 1) + 1 < cw ? a + 1 : a
      const u = (U[a]! + U[b]!) * 0.5 - c[1]!
      const v = (V[a]! + V[b]!) * 0.5 - c[1]!
      const l = f((Y[y * width + x]! - c[0]!) * c[2]!)
      rgb[o++] = l + f(c[3]! * v)
      rgb[o++] = f(l + f(c[4]! * u)) + f(c[5]! * v)
      rgb[o++] = l + f(c[6]! * u)
    }
  return rgb
}
export function toRgb(planes: Planes, size: Size, weights: readonly [number, number]): Float32Array {
  const fast = kernel()
  if (!fast) return toRgbPlain(planes, size, weights)
  const { width, height } = size
  const rgb = new Float32Array(width * height * 3)
  const places = fast.hold([...planes, fromCodes(planes, weights)], rgb.byteLength, 8 * (width + 16))
  fast.run.toRgb(planes[0].BYTES_PER_ELEMENT, ...places, width, height)
  fast.take(places[4]!, rgb)
  return rgb
}

/** What a depth and a colour system's weights come to, of codes from R′, G′, B′. */
function toCodes(bitDepth: 8 | 10, [kr, kb]: readonly [number, number]): Float32Array {
  const unit = 1 << (bitDepth - 8)
  // four weights of a filter, and differences of twice the size
  const [blue, red] = [kb, kr].map((k) => (224 * unit) / (8 * (1 - k)))
  return Float32Array.of(
    ...[kr, 1 - kr - kb, kb],
    ...[16 * unit, 219 * unit, 128 * unit, blue!, red!],
    // the lowest and highest of 8 bits are kept for interfaces (ITU-R BT.656, BT.1120)
    ...[unit, 255 * unit - 1],
  )
}

/** Room for codes of a depth. */
function roomFor(bitDepth: 8 | 10, { width, height }: Size): Planes {
  const room = (n: number) => (bitDepth === 8 ? new Uint8Array(n) : new Uint16Array(n))
  const cw = (width + 1) >> 1
  return [room(width * height), room(cw * height), room(cw * height)]
}

/** Narrow-range 4:2:2 of R′, G′, B′; chroma is weighed 1:2:1 around the sample it is sited with. */
export function fromRgbPlain(
  rgb: Float32Array,
  size: Size,
  bitDepth: 8 | 10,
  weights: readonly [number, number],
): Planes {
  const { width, height } = size
  const c = toCodes(bitDepth, weights)
  const [least, most] = [c[8]!, c[9]!]
  const code = (v: number) => {
    const whole = Math.floor(f(f(v) + 0.5))
    return whole >= least ? Math.min(whole, most) : least
  }
  const out = roomFor(bitDepth, size)
  const [Y, U, V] = out
  const cw = (width + 1) >> 1
  // differences of one line, each end doubled
  const [cb, cr] = [new Float32Array(width + 2), new Float32Array(width + 2)]
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 3
      const l = f(f(f(c[0]! * rgb[at]!) + f(c[1]! * rgb[at + 1]!)) + f(c[2]! * rgb[at + 2]!))
      Y[y * width + x] = code(c[3]! + f(c[4]! * l))
      cb[x + 1] = rgb[at + 2]! - l
      cr[x + 1] = rgb[at]! - l
    }
    for (const d of [cb, cr]) {
      d[0] = d[1]!
      d[width + 1] = d[width]!
    }
    const weighed = (d: Float32Array, k: number) => f(f(d[k - 1]! + 2 * d[k]!) + d[k + 1]!)
    for (let x = 0; x < cw; x++) {
      U[y * cw + x] = code(c[5]! + f(c[6]! * weighed(cb, 2 * x + 1)))
      V[y * cw + x] = code(c[5]! + f(c[7]! * weighed(cr, 2 * x + 1)))
    }
  }
  return out
}
export function fromRgb(rgb: Float32Array, size: Size, bitDepth: 8 | 10, weights: readonly [number, number]): Planes {
  const fast = kernel()
  if (!fast) return fromRgbPlain(rgb, size, bitDepth, weights)
  const out = roomFor(bitDepth, size)
  const { width, height } = size
  const room = [...out.map((o) => o.length * 2), 8 * (width + 16)]
  const places = fast.hold([rgb, toCodes(bitDepth, weights)], ...room)
  fast.run.fromRgb(...places, width, height)
  out.forEach((o, i) => {
    if (o instanceof Uint16Array) return fast.take(places[2 + i]!, o)
    const words = new Uint16Array(o.length)
    fast.take(places[2 + i]!, words)
    o.set(words)
  })
  return out
}
