import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { blackPicture, toChroma422, toDepth, type Picture } from '../picture/picture'
import { decodePcm, encodePcm } from './pcm/pcm'
import { decodeUyvy } from './uyvy/uyvy'
import { v210Stride } from '../kernel/v210'
import { decodeV210, encodeV210, v210Size } from './v210/v210'

function noise(width: number, height: number, chroma: Picture['chroma'], bitDepth: 8 | 10, seed = 1): Picture {
  const p = blackPicture(width, height, chroma, bitDepth)
  let s = seed
  for (const plane of p.planes)
    for (let i = 0; i < plane.length; i++)
      plane[i] = (s = (Math.imul(s, 1103515245) + 12345) >>> 0) >>> (bitDepth === 8 ? 24 : 22)
  return p
}

describe('v210', () => {
  it('pads lines to 48 pixels', () =>
    expect([v210Stride(1920), v210Stride(1280), v210Stride(720), v210Size(1920, 1080)]).toEqual([
      5120, 3456, 1920, 5529600,
    ]))
  it('packs three samples in a little-endian word, Cb Y Cr first', () => {
    const p: Picture = {
      width: 6,
      height: 1,
      chroma: '4:2:2',
      bitDepth: 10,
      planes: [
        Uint16Array.from([11, 12, 13, 14, 15, 16]),
        Uint16Array.from([101, 102, 103]),
        Uint16Array.from([201, 202, 203]),
      ],
    }
    const words = new Uint32Array(encodeV210(p).buffer, 0, 4)
    const parts = (w: number) => [w & 1023, (w >> 10) & 1023, (w >> 20) & 1023]
    expect([...words].map(parts)).toEqual([
      [101, 11, 201],
      [12, 102, 13],
      [202, 14, 103],
      [15, 203, 16],
    ])
  })
  it('never writes the codes kept for timing references', () => {
    for (const chroma of ['4:2:0', '4:2:2'] as const)
      for (const v of [0, 255]) {
        const p = blackPicture(14, 4, chroma, 8)
        p.planes.forEach((plane) => plane.fill(v))
        const back = decodeV210(encodeV210(p), 14, 4).planes
        expect(new Set(back.flatMap((plane) => [...plane]))).toEqual(new Set([v ? 1019 : 4]))
      }
  })
  it('gives back what it was given at any width', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 1, max: 5 }), (half, height) => {
        const p = noise(half * 2, height, '4:2:2', 10, half)
        for (const plane of p.planes) plane.forEach((v, i) => (plane[i] = Math.max(4, Math.min(1019, v))))
        expect(decodeV210(encodeV210(p), p.width, height).planes).toEqual(p.planes)
      }),
    )
  })
  it('the quick way from 8-bit 4:2:0 is the same as the long way', () => {
    for (const [width, height] of [
      [48, 2],
      [48, 4],
      [40, 10],
      [44, 4],
      [640, 4],
      [2, 2],
    ] as const) {
      const p = noise(width, height, '4:2:0', 8)
      expect(encodeV210(p)).toEqual(encodeV210(toChroma422(toDepth(p, 10))))
    }
  })
})

describe('8-bit 4:2:2', () => {
  it('is read in the order Cb Y Cr Y', () => {
    const p = decodeUyvy(Uint8Array.from([10, 1, 20, 2, 11, 3, 21, 4]), 4, 1)
    expect(p.planes.map((x) => [...x])).toEqual([
      [1, 2, 3, 4],
      [10, 11],
      [20, 21],
    ])
  })
})

describe('PCM', () => {
  it.each([
    [16, true],
    [16, false],
    [24, true],
    [24, false],
  ] as const)('%i bit, little-endian %s: every code comes back', (bits, little) => {
    const full = 2 ** (bits - 1)
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -full, max: full - 1 }), { minLength: 1 }), (codes) => {
        const x = Float32Array.from(codes, (c) => c / full)
        const back = decodePcm(encodePcm([x, x], bits, little), {
          bytesPerSample: bits / 8,
          kind: 'int',
          littleEndian: little,
          channels: 2,
        })
        expect(back[1]).toEqual(x)
      }),
    )
  })
  it('holds at full scale instead of wrapping', () => {
    const [y] = decodePcm(encodePcm([Float32Array.from([2, -2])], 24, true), {
      bytesPerSample: 3,
      kind: 'int',
      littleEndian: true,
      channels: 1,
    })
    expect([...y!]).toEqual([(2 ** 23 - 1) / 2 ** 23, -1])
  })
})
