import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { kernel } from '../../kernel/kernel'
import { noise } from '../../kernel/noise'
import { bt709 } from '../../media/colour'
import { likenessOf, peakSignalToNoise } from '../../picture/likeness'
import { emptyPicture, type Picture } from '../../picture/picture'
import { makeRate } from '../../time/rate'
import { pictureCodec } from '../registry'
import type { PictureShape } from '../codec'
import { Mpeg2Decoder } from './decode'
import { describeMpeg2 } from './describe'
import { IntraEncoder, spread } from './encode'
import { formOf, needForm, pictureBytes } from './forms'
import { partsOf, starts } from './headers'
import { forward, inverse } from '../transform'

const encode = pictureCodec('mpeg2')!.encode!
const d10: PictureShape = { width: 720, height: 576, rate: makeRate(25), scan: 'interlaced-tff' }
const small: PictureShape = { width: 1280, height: 720, rate: makeRate(25), scan: 'progressive' }

/** Waves, with lines of the two fields apart, and grain from none to nothing else. */
function painted({ width, height, scan }: PictureShape, grain: number): Picture {
  const p = emptyPicture(width, height, '4:2:2', 8)
  const shift = scan.startsWith('interlaced') ? 9 : 0
  p.planes.forEach((plane, k) => {
    const w = k === 0 ? width : width / 2
    const grains = noise(new Uint8Array(plane.length), Math.max(1, grain), 5 + k)
    for (let i = 0; i < plane.length; i++) {
      const [x, y] = [(i % w) + shift * (Math.floor(i / w) & 1), Math.floor(i / w)]
      const wave = grain > 250 ? 0 : 110 + 60 * Math.sin(x / 9 + y / 17) + 25 * Math.cos(y / 6)
      plane[i] = Math.max(0, Math.min(255, wave + grains[i]!))
    }
  })
  return p
}

async function units(shape: PictureShape, bitrate: number, pictures: readonly Picture[], more = {}) {
  const encoder = encode.open({ ...shape, bitrate, ...more }, null)
  for (const p of pictures) await encoder.feed(p)
  return encoder.take().map((u) => u.bytes)
}

/** The picture of a frame as it is decoded: D-10 has 32 lines above it. */
function decoded(unit: Uint8Array, { width, height }: PictureShape): Picture {
  const { frame } = new Mpeg2Decoder().decode(unit)
  const first = height === 576 ? 32 : 0
  const out = emptyPicture(width, height, '4:2:2', 8)
  out.planes.forEach((plane, k) => {
    const w = k === 0 ? width : width / 2
    plane.set(frame.planes[k]!.subarray(first * w, first * w + plane.length))
  })
  return out
}

/** dB of luma, Cb and Cr; without end where nothing differs. */
const ratios = (a: Picture, b: Picture) => likenessOf(a, b).errors.map((e) => peakSignalToNoise(e) ?? Infinity)

/** Bytes behind the last that is not stuffing. */
const stuffed = (unit: Uint8Array) => unit.length - unit.findLastIndex((b) => b !== 0) - 1

describe('intra pictures of MPEG-2', () => {
  it('the transform and its inverse are each other’s', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 64, maxLength: 64 }), (values) => {
        const block = Float32Array.from(values)
        forward(block)
        // the mean of 64 values, eight times
        expect(block[0]).toBeCloseTo(values.reduce((a, b) => a + b) / 8, 3)
        const back = inverse(Int16Array.from(block, (v) => Math.round(v)))
        values.forEach((v, i) => expect(Math.abs(back[i]! - v)).toBeLessThan(3))
      }),
    )
  })

  it.each([
    ['720 lines', small, 100e6, 45],
    ['D-10', d10, 50e6, 45],
    ['D-10 at its least', d10, 30e6, 40],
  ] as const)(
    'of %s have the size they must, waste under 2 %, and are what was put in',
    async (_, shape, rate, least) => {
      const picture = painted(shape, 4)
      const [first, second] = await units(shape, rate, [picture, { ...picture }])
      const bytes = pictureBytes(shape, rate)
      expect([first!.length, second!.length]).toEqual([bytes, bytes])
      expect(stuffed(second!) / bytes).toBeLessThan(0.02)
      const psnr = ratios(picture, decoded(second!, shape))
      console.info(
        `${shape.width}×${shape.height} at ${rate / 1e6} Mbit/s: ${psnr.map((v) => v.toFixed(1)).join(' ')} dB`,
      )
      for (const v of psnr) expect(v).toBeGreaterThan(least)
    },
  )

  it('of nothing but noise fit at the least rate there is', async () => {
    for (const [shape, rate] of [
      [small, 50e6],
      [{ ...small, rate: makeRate(60) }, 50e6],
      [d10, 30e6],
    ] as const) {
      const [unit] = await units(shape, rate, [painted(shape, 256)])
      expect(unit!.length).toBe(pictureBytes(shape, rate))
      expect(new Mpeg2Decoder().decode(unit!).frame.width).toBe(shape.width)
    }
  })

  it('that are black are exact, and the rest is stuffing', async () => {
    const black = emptyPicture(d10.width, d10.height, '4:2:2', 8)
    black.planes.forEach((p, k) => p.fill(k === 0 ? 16 : 128))
    const [unit] = await units(d10, 50e6, [black])
    expect(stuffed(unit!)).toBeGreaterThan(200_000)
    expect(ratios(black, decoded(unit!, d10))).toEqual([Infinity, Infinity, Infinity])
  })

  it('say what they are, and carry the timecode of their frame', async () => {
    const start = { frames: 25 * 3600, dropFrame: false }
    const more = {
      start,
      first: 30,
      pixelAspect: '64:45',
      colour: { primaries: 5, transfer: 6, matrix: 6, fullRange: false },
    }
    const picture = painted(d10, 2)
    const [one, two] = await units(d10, 50e6, [picture, picture], more)
    expect(describeMpeg2(null, one!)).toMatchObject({
      ...{ profile: '4:2:2', level: 'Main', width: 720, height: 576, scan: 'interlaced-tff', chroma: '4:2:2' },
      ...{ bitDepth: 8, pixelAspect: '64:45', timing: makeRate(25), colour: more.colour },
    })
    const label = (unit: Uint8Array) => {
      const { from } = partsOf(unit).find((p) => p.code === starts.group)!
      const bits = ((unit[from]! << 24) | (unit[from + 1]! << 16) | (unit[from + 2]! << 8) | unit[from + 3]!) >>> 7
      return [bits >> 24, (bits >> 19) & 31, (bits >> 13) & 63, (bits >> 6) & 63, bits & 63]
    }
    expect([label(one!), label(two!)]).toEqual([
      [0, 1, 0, 1, 5],
      [0, 1, 0, 1, 6],
    ])
    // the same picture is the same slices
    const slices = (unit: Uint8Array) => unit.subarray(partsOf(unit).find((p) => p.code === 1)!.from)
    expect(Buffer.compare(slices(one!), slices(two!))).toBe(0)
  })

  it.each([
    ['progressive', 'progressive'],
    ['segmented', 'interlaced-tff'],
    ['interlaced-tff', 'interlaced-tff'],
    ['interlaced-bff', 'interlaced-bff'],
  ] as const)('%s of 1080 lines are told to be %s by the stream', async (scan, told) => {
    const shape = { width: 1920, height: 1080, rate: makeRate(30000, 1001), scan }
    const [unit] = await units(shape, 100e6, [painted(shape, 0)])
    expect(describeMpeg2(null, unit!)).toMatchObject({ scan: told, level: 'High', height: 1080, pixelAspect: '1:1' })
    expect(ratios(painted(shape, 0), decoded(unit!, shape))[0]).toBeGreaterThan(40)
  })
})

it('forms that there are not, and rates that a form has not, are problems that say which there are', () => {
  expect(formOf({ ...d10, rate: makeRate(30000, 1001) })).toBeNull()
  expect(() => pictureBytes({ ...d10, scan: 'progressive' }, 50e6)).toThrow('720×576, progressive, at 25')
  expect(() => pictureBytes(d10, 45e6)).toThrow('cannot have 45000 kbit/s')
  expect(() => pictureBytes(small, 201e6)).toThrow('cannot have 201000 kbit/s')
  expect(pictureBytes(d10, 50e6)).toBe(250_000)
  expect(pictureBytes({ ...small, rate: makeRate(60000, 1001) }, 50e6)).toBe(Math.floor((50e6 * 1001) / (8 * 60000)))
})

it('lines are taken spread over the picture, each once', () => {
  expect(spread(8)).toEqual([0, 4, 2, 6, 1, 5, 3, 7])
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 200 }), (n) => {
      expect([...spread(n)].sort((a, b) => a - b)).toEqual(Array.from({ length: n }, (_, i) => i))
    }),
  )
})

it('the kernel makes the same units as the plain reference, bit for bit', () => {
  const loops = kernel()!
  for (const [shape, rate, grain] of [
    [d10, 50e6, 3],
    [d10, 30e6, 256],
    [small, 100e6, 0],
    [{ ...small, width: 1920, height: 1080, scan: 'interlaced-bff' }, 60e6, 30],
  ] as const) {
    const format = {
      ...{ form: needForm(shape), rate: shape.rate, scan: shape.scan, bytes: pictureBytes(shape, rate) },
      ...{ colour: bt709, pixelAspect: '1:1', start: { frames: 0, dropFrame: false } },
    }
    const [fast, plain] = [new IntraEncoder(format, loops), new IntraEncoder(format, null)]
    for (const n of [0, 1]) {
      const picture = painted(shape, grain + n)
      expect(Buffer.compare(fast.encode(picture, n), plain.encode(picture, n))).toBe(0)
    }
  }
})
