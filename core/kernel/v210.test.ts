import fc from 'fast-check'
import { expect, it } from 'vitest'
import { noise } from './noise'
import {
  packPlain,
  packPlainFrom420,
  packV210,
  packV210From420,
  unpackPlain,
  unpackV210,
  v210Stride,
  type Planes10,
  type Planes8,
} from './v210'

const size = fc.integer({ min: 1, max: 110 })
const planes10 = (w: number, h: number, seed: number): Planes10 => {
  const c = ((w + 1) >> 1) * h
  return [
    noise(new Uint16Array(w * h), 1023, seed),
    ...[1, 2].map((k) => noise(new Uint16Array(c), 1023, seed + k)),
  ] as [Uint16Array, Uint16Array, Uint16Array]
}
const room = (w: number, h: number) => new Uint8Array(v210Stride(w) * h).fill(0xaa)

it('packs by the kernel as plainly, for any size', () => {
  fc.assert(
    fc.property(size, size, fc.nat(), (w, h, seed) => {
      const [fast, plain] = [room(w, h), room(w, h)]
      const planes = planes10(w, h, seed)
      packV210(planes, w, h, fast)
      packPlain(planes, w, h, plain)
      expect(fast).toEqual(plain)
    }),
  )
})

it('packs 8-bit 4:2:0 by the kernel as plainly, for any even width', () => {
  fc.assert(
    fc.property(size, size, fc.nat(), (half, h, seed) => {
      const w = half * 2
      const c = half * ((h + 1) >> 1)
      const [fast, plain] = [room(w, h), room(w, h)]
      const planes: Planes8 = [
        noise(new Uint8Array(w * h), 255, seed),
        noise(new Uint8Array(c), 255, seed + 1),
        noise(new Uint8Array(c), 255, seed + 2),
      ]
      packV210From420(planes, w, h, fast)
      packPlainFrom420(planes, w, h, plain)
      expect(fast).toEqual(plain)
    }),
  )
})

it('unpacks by the kernel as plainly, and gives what was packed but for codes that may not stand', () => {
  fc.assert(
    fc.property(size, size, fc.nat(), (w, h, seed) => {
      const bytes = room(w, h)
      const planes = planes10(w, h, seed)
      packPlain(planes, w, h, bytes)
      const [fast, plain] = [planes10(w, h, 0), planes10(w, h, 0)]
      unpackV210(bytes, w, h, fast)
      unpackPlain(bytes, w, h, plain)
      expect(fast).toEqual(plain)
      expect(plain).toEqual(planes.map((p) => p.map((v) => Math.max(4, Math.min(1019, v)))))
    }),
  )
})
