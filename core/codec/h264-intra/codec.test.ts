import { describe, expect, it } from 'vitest'
import { concatBytes, memorySource, Writer } from '../../bytes'
import { mp4 } from '../../container/mp4/container'
import { openMedia } from '../../container/registry'
import { bt709 } from '../../media/colour'
import { openPictures } from '../pictures'
import { chance, hardPicture, smallFormat } from './hardpictures'
import { h264Intra } from './codec'
import { IntraDecoder } from './decode'
import { IntraEncoder } from './encode'
import { unitsOf } from '../nal'
import type { Format } from './write'

/** What the encoder says a decoder will see, cut to the picture. */
function seen(encoder: IntraEncoder, f: Format): number[][] {
  return encoder.surface.planes.map((plane, k) => {
    const [w, h] = k === 0 ? [f.width, f.height] : [f.width / 2, f.chroma === 1 ? f.height / 2 : f.height]
    const stride = encoder.surface.strides[k]!
    return Array.from({ length: h }, (_, y) => [...plane.subarray(y * stride, y * stride + w)]).flat()
  })
}

const formats = [
  smallFormat({}),
  smallFormat({ chroma: 1 }),
  smallFormat({ depth: 8 }),
  smallFormat({ chroma: 1, depth: 8, height: 72 }),
  smallFormat({ fields: 'top' }),
  smallFormat({ fields: 'bottom', chroma: 1, height: 96 }),
]
const adaptive = [smallFormat({ adaptive: true }), smallFormat({ adaptive: true, chroma: 1, height: 88 })].flatMap(
  (f) => [f, { ...f, arithmetic: true }],
)

const named = ({ depth, chroma, fields, adaptive, arithmetic }: Format) =>
  `${depth} bit, chroma ${chroma}, ${fields ?? (adaptive ? 'adaptive' : 'frames')}, ${arithmetic ? 'CABAC' : 'CAVLC'}`

describe('pictures that are decoded as the encoder has them', () => {
  for (const f of [...formats, ...adaptive])
    it.each([0, 12, 26, 40, 51].map((qp) => [qp, -6 * (f.depth - 8)] as const))(`${named(f)}: QP %i`, (qp, least) => {
      const encoder = new IntraEncoder(f)
      const decoders = [new IntraDecoder(), new IntraDecoder(true)]
      const of = chance(qp)
      // every kind and mode there is, and lines of different QPs
      const pair = () => of(2) === 1
      const chosen = { kind: () => of(12) % 4, mode: (m: readonly number[]) => m[of(m.length)]!, pair }
      for (const [seed, free] of [[1, true] as const, [2, false] as const]) {
        encoder.load(hardPicture(f, seed, 1 << (f.depth - 6)))
        const manner = { slices: 2, kept: true, qp: (line: number) => Math.max(least, qp - (line % 5) * 3) }
        const bytes = encoder.encode(free ? { ...manner, chosen } : manner)
        for (const decoder of decoders) {
          const picture = decoder.decode(unitsOf(bytes))
          expect(picture.planes.map((p) => [...p])).toEqual(seen(encoder, f))
        }
      }
    })
})

describe('the kernel', () => {
  for (const f of formats.flatMap((x) => [x, { ...x, arithmetic: true }]))
    it.each([0, 14, 27, 39, 51])(`encodes as the plain code does: ${named(f)}, QP %i`, (qp) => {
      const [fast, plain] = [new IntraEncoder(f), new IntraEncoder(f)]
      for (const seed of [1, 2, 3]) {
        const least = -6 * (f.depth - 8)
        const qpOf = (line: number) => Math.max(least, qp - (line % 5) * 4)
        const manner = { slices: seed, kept: true, plain: seed === 3, qp: qpOf }
        const picture = hardPicture(f, seed, seed === 1 ? 0 : 1 << (f.depth - 2 * seed))
        fast.load(picture)
        plain.load(picture)
        expect(Buffer.from(fast.encode(manner)).equals(plain.encode({ ...manner, slow: true }))).toBe(true)
        expect(seen(fast, f)).toEqual(seen(plain, f))
      }
    })

  it('encodes samples that are black or white as the plain code does, by chance and in every wave', () => {
    const of = chance(9)
    for (const [wave, arithmetic] of [0, 1, 2, 3, 4, 5].flatMap((w) => [[w, false] as const, [w, true] as const])) {
      const f = smallFormat({ arithmetic })
      const picture = hardPicture(f, 1, 0)
      picture.planes.forEach((plane, k) => {
        const width = k === 0 ? f.width : f.width / 2
        const high = (i: number) => (((i % width) >> wave) + (Math.floor(i / width) >> (wave % 3))) % 2 === 1
        plane.forEach((_, i) => (plane[i] = (wave === 5 ? of(2) === 1 : high(i)) ? 1023 : 0))
      })
      for (const qp of [-12, 3, 30]) {
        const [fast, plain] = [new IntraEncoder(f), new IntraEncoder(f)]
        fast.load(picture)
        plain.load(picture)
        const manner = { slices: 1, qp: () => qp }
        expect(Buffer.from(fast.encode(manner)).equals(plain.encode({ ...manner, slow: true }))).toBe(true)
      }
    }
  })
})

describe('intra pictures in a MOV', () => {
  it('are decoded by our own code, in their depth and chroma', async () => {
    const f = smallFormat({ fields: null })
    const encoder = new IntraEncoder(f)
    const units = [1, 2].map((seed) => {
      encoder.load(hardPicture(f, seed, 20))
      return unitsOf(encoder.encode({ slices: 2, qp: () => 14 }))
    })
    const of = (type: number) => units[0]!.find((u) => (u[0]! & 31) === type)!
    const [sps, pps] = [of(7), of(8)]
    const configuration = new Writer()
      .raw(Uint8Array.of(1, 122, 0x10, 41, 0xff, 0xe1))
      .u16(sps.length)
      .raw(sps)
    configuration.u8(1).u16(pps.length).raw(pps)
    const samples = units.map((list) =>
      concatBytes(list.filter((u) => (u[0]! & 31) === 5).map((u) => new Writer().u32(u.length).raw(u).bytes())),
    )
    const { head, tail } = mp4.layout!('mov', {
      ...{ frames: 2, rate: f.rate, start: { frames: 0, dropFrame: false }, chapters: [] },
      dataSize: samples[0]!.length + samples[1]!.length,
      tracks: [
        {
          essence: {
            ...{ kind: 'video', codec: 'h264', width: f.width, height: f.height, pixelAspect: '1:1', colour: bt709 },
            ...{ scan: 'progressive', configuration: configuration.bytes() },
          },
          timescale: 25,
          sizes: Uint32Array.from(samples, (s) => s.length),
          durations: { constant: 1 },
          chunks: [{ offset: 0, samples: 2 }],
        },
      ],
    })
    const media = await openMedia(memorySource(concatBytes([head, ...samples, tail])))
    const track = media.video[0]!
    expect(track.info).toMatchObject({ codec: 'h264-intra', bitDepth: 10, chroma: '4:2:2', webCodec: null })
    for await (const { frame, picture } of openPictures(media, null).read({ in: 0, out: 2 }))
      expect(picture).toEqual(new IntraDecoder().decode(units[frame]!))
  })
})

describe('what is coded in ways that are not decoded here', () => {
  it('is told apart from damage, and left to the codec package where the parameter sets say so', () => {
    const f = smallFormat({})
    const encoder = new IntraEncoder(f)
    encoder.load(hardPicture(f, 1, 4))
    const bytes = encoder.encode({ slices: 1, qp: () => 20 })
    expect(h264Intra.describe(null, bytes)).toMatchObject({ bitDepth: 10, webCodec: null })
    expect(h264Intra.describe(null, bytes).codec).toBeUndefined()
    // the fifth bit of this parameter set says that there is one slice group
    const set = unitsOf(bytes).find((u) => (u[0]! & 31) === 8)!
    set[1] = set[1]! & ~0x08
    expect(h264Intra.describe(null, bytes)).toMatchObject({ codec: 'h264', webCodec: 'avc1.7a1029' })
    expect(() => new IntraDecoder().decode(unitsOf(bytes))).toThrow('coded by slice groups')
    const slices = unitsOf(bytes).filter((u) => (u[0]! & 31) === 5)
    expect(() => new IntraDecoder().decode(slices)).toThrow('parameter sets that are not in the stream')
  })
})
