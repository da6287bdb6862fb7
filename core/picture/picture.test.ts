import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { toNarrowRange } from './range'
import { lumaWeights } from '../media/colour'
import { burnIn, drawText, mostLetters } from './burnin'
import {
  blackPicture,
  i420Bytes,
  pictureDifference,
  pictureFromI420,
  dithered,
  toChroma420,
  toChroma422,
  toDepth,
  toRgb,
  type Picture,
} from './picture'
import { fitPicture, placement, type Fit } from './scale'

function flat(width: number, height: number, y: number, u = 90, v = 160, chroma: Picture['chroma'] = '4:2:0'): Picture {
  const p = blackPicture(width, height, chroma, 8)
  p.planes[0].fill(y)
  p.planes[1].fill(u)
  p.planes[2].fill(v)
  return p
}

describe('scaling', () => {
  it('leaves a picture of the right size as it is', () => {
    const p = flat(64, 36, 100)
    expect(fitPicture(p, { width: 64, height: 36, fit: 'letterbox' })).toBe(p)
  })
  it('keeps a flat colour flat at any size and fit', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 8, max: 60 }),
        fc.integer({ min: 8, max: 60 }),
        fc.integer({ min: 16, max: 235 }),
        (w, h, y) => {
          const out = fitPicture(flat(48, 32, y), { width: w * 2, height: h * 2, fit: 'stretch' })
          expect(new Set(out.planes[0])).toEqual(new Set([y]))
          expect(new Set(out.planes[1])).toEqual(new Set([90]))
        },
      ),
      { numRuns: 40 },
    )
  })
  it('puts bars where they are needed, and black into them', () => {
    expect(placement(1920, 1080, 1, 1440, 1080, 'letterbox').to).toEqual({ x: 0, y: 136, width: 1440, height: 810 })
    expect(placement(720, 576, 16 / 15, 1920, 1080, 'letterbox').to).toEqual({
      x: 240,
      y: 0,
      width: 1440,
      height: 1080,
    })
    const out = fitPicture(flat(160, 90, 200), { width: 160, height: 120, fit: 'letterbox' })
    expect([out.planes[0][0], out.planes[0][160 * 60], out.planes[0][160 * 119]]).toEqual([16, 200, 16])
  })
  it('crops the middle', () => {
    expect(placement(1920, 1080, 1, 1080, 1080, 'crop').from).toEqual({ x: 420, y: 0, width: 1080, height: 1080 })
    expect(placement(100, 100, 1, 200, 200, 'unscaled').to).toEqual({ x: 50, y: 50, width: 100, height: 100 })
  })
  it('never lands outside the raster', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 8, max: 200 }),
        fc.integer({ min: 8, max: 200 }),
        fc.integer({ min: 8, max: 200 }),
        fc.integer({ min: 8, max: 200 }),
        fc.constantFrom<Fit>('letterbox', 'crop', 'stretch', 'unscaled'),
        (w, h, tw, th, fit) => {
          const { from, to } = placement(w * 2, h * 2, 1, tw * 2, th * 2, fit)
          for (const [r, bw, bh] of [
            [from, w * 2, h * 2],
            [to, tw * 2, th * 2],
          ] as const) {
            expect(Math.min(r.x, r.y)).toBeGreaterThanOrEqual(0)
            expect(r.x + r.width).toBeLessThanOrEqual(bw)
            expect(r.y + r.height).toBeLessThanOrEqual(bh)
          }
        },
      ),
    )
  })
  it('keeps detail where it was: a step stays at its place when halved', () => {
    const p = flat(64, 32, 16)
    for (let y = 0; y < 32; y++) p.planes[0].fill(235, y * 64 + 32, (y + 1) * 64)
    const row = fitPicture(p, { width: 32, height: 16, fit: 'stretch' }).planes[0].subarray(32 * 8, 32 * 9)
    // a sharp kernel rings by a few steps within three samples of it
    expect([row[0], row[12], row[19], row[31]]).toEqual([16, 16, 235, 235])
    expect(row[15]! + row[16]!).toBe(16 + 235)
    expect(toRgb(p, 16)).toMatchObject({ width: 16, height: 8 })
  })
})

describe('depth and chroma', () => {
  it('goes to 10 bits and back', () => {
    const p = flat(8, 8, 77)
    expect(toDepth(toDepth(p, 10), 8).planes).toEqual(p.planes)
    expect(toDepth(p, 10).planes[0][0]).toBe(308)
  })
  it('dithers 10 bits to 8, of the chroma that is asked for, which keep the mean', () => {
    const p = toDepth(flat(16, 8, 77, 90, 160, '4:2:2'), 10)
    p.planes[0].fill(309)
    p.planes[2].fill(642)
    const q = dithered(p, '4:2:0')
    expect([q.bitDepth, q.chroma, ...q.planes.map((plane) => plane.length)]).toEqual([8, '4:2:0', 128, 32, 32])
    const mean = (plane: ArrayLike<number>) => Array.from(plane).reduce((a, b) => a + b) / plane.length
    expect(q.planes.map(mean)).toEqual([309 / 4, 90, 642 / 4])
    expect(dithered(q, '4:2:2')).toBe(q)
    const full = dithered(p, '4:2:2')
    expect([full.chroma, ...full.planes.map((plane) => plane.length)]).toEqual(['4:2:2', 128, 64, 64])
    expect(full.planes.map(mean)).toEqual([309 / 4, 90, 642 / 4])
  })
  it('goes to 4:2:2 and back for flat colours', () =>
    expect(toChroma420(toChroma422(flat(8, 8, 77))).planes).toEqual(flat(8, 8, 77).planes))
  it('I420 bytes come back', () => {
    const p = flat(6, 4, 50)
    expect(pictureFromI420(i420Bytes(p), 6, 4)).toEqual(p)
  })
  it('gives the colours of BT.709', () => {
    expect([...toRgb(flat(2, 2, 235, 128, 128)).rgb.subarray(0, 3)]).toEqual([255, 255, 255])
    expect([...toRgb(flat(2, 2, 63, 102, 240)).rgb.subarray(0, 3)]).toEqual([255, 1, 0])
  })
  it('gives those of another system by its weights: red of BT.601, and of BT.2020', () => {
    const red = (luma: number, cb: number, matrix: number) => [
      ...toRgb(flat(2, 2, luma, cb, 240), 2, lumaWeights(matrix)).rgb.subarray(0, 3),
    ]
    for (const colour of [red(81, 90, 6), red(74, 97, 9)]) {
      expect(colour[0]).toBeGreaterThan(253)
      expect(Math.max(...colour.slice(1))).toBeLessThan(2)
    }
  })
  it('measures the difference of pictures in 8-bit steps', () => {
    expect(pictureDifference(flat(8, 8, 50), toDepth(flat(8, 8, 53), 10))).toBe(3)
    expect(pictureDifference(flat(8, 8, 50), flat(4, 4, 50))).toBe(255)
  })
})

describe('full range', () => {
  it('comes to narrow range at both ends and in the middle, in 8 and 10 bits', () => {
    const of = (bitDepth: 8 | 10, y: number, u: number, v: number) =>
      toNarrowRange({
        ...blackPicture(2, 2, '4:2:0', bitDepth),
        planes: (bitDepth === 8
          ? [Uint8Array.of(y), Uint8Array.of(u), Uint8Array.of(v)]
          : [Uint16Array.of(y), Uint16Array.of(u), Uint16Array.of(v)]) as never,
      }).planes.map((p) => p[0])
    expect(of(8, 0, 0, 255)).toEqual([16, 16, 240])
    expect(of(8, 255, 128, 128)).toEqual([235, 128, 128])
    expect(of(10, 0, 0, 1023)).toEqual([64, 64, 960])
    expect(of(10, 1023, 512, 512)).toEqual([940, 512, 512])
  })
})

describe('burn-in', () => {
  it('draws inside the safe area on a copy', () => {
    const p = flat(320, 180, 100)
    const out = burnIn(p, [{ text: '10:00:00:00', size: 16, place: 'bottom' }])
    expect(p.planes[0].every((v) => v === 100)).toBe(true)
    expect(out.planes[0].some((v) => v > 200)).toBe(true)
    expect(out.planes[0].subarray(320 * 172).every((v) => v === 100)).toBe(true)
    expect(burnIn(p, [])).toBe(p)
  })
  it('makes text smaller until it fits', () => {
    const p = flat(320, 180, 100)
    const columns = (text: string) => {
      const [Y] = burnIn(p, [{ text, size: 16, place: 'top' }]).planes
      const dark = Array.from({ length: 320 }, (_, x) => Array.from({ length: 180 }, (_y, y) => Y[y * 320 + x]!))
      const seen = dark.flatMap((c, x) => (c.some((v) => v !== 100) ? [x] : []))
      return [seen[0]!, seen.at(-1)!]
    }
    for (const letters of [1, 20, 33, 40, mostLetters(320)]) {
      const [first, last] = columns('M'.repeat(letters)) as [number, number]
      expect(first).toBeGreaterThanOrEqual(15)
      expect(last).toBeLessThan(305)
    }
    // the end of a line that fits is drawn
    expect(columns(`${'.'.repeat(mostLetters(320) - 1)}M`)).toEqual(columns('M'.repeat(mostLetters(320))))
  })
  it('lays a mark over the middle, through which the picture is seen', () => {
    for (const ground of [16, 100, 235]) {
      const p = flat(320, 180, ground)
      const [Y, U] = burnIn(p, [{ text: 'NOT FOR AIR', size: 22, place: 'across' }]).planes
      const other = [...Y].flatMap((v, i) => (v === ground ? [] : [i]))
      expect(other.length).toBeGreaterThan(300)
      expect(other.every((i) => Math.abs(i / 320 - 90) < 16)).toBe(true)
      expect(Math.max(...other.map((i) => Math.abs(Y[i]! - ground)))).toBeLessThan(110)
      expect(U).toEqual(p.planes[1])
    }
  })
  it('cuts text that is too long instead of leaving the picture', () => {
    const p = flat(64, 36, 100)
    drawText(p, 'far too long a line for this picture', 40, 30, 16)
    expect(p.planes[0].length).toBe(64 * 36)
  })
})
