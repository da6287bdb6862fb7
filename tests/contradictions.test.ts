import { describe, expect, it } from 'vitest'
import { concatBytes, memorySource, Writer } from '../core/bytes'
import { h264Intra } from '../core/codec/h264-intra/codec'
import { IntraEncoder } from '../core/codec/h264-intra/encode'
import { hardPicture, smallFormat } from '../core/codec/h264-intra/hardpictures'
import { unitsOf } from '../core/codec/nal'
import { mp4 } from '../core/container/mp4/container'
import { mxf } from '../core/container/mxf/container'
import { openMedia } from '../core/container/registry'
import { bt709, systems } from '../core/media/colour'
import type { Colour } from '../core/media/media'
import { makeRate, nearestRate } from '../core/time/rate'
import { describedMedia } from '../core/measure/described'
import { measureOf } from '../core/measure/registry'

// Files whose container says one thing of their pictures, and the pictures another.

const rate = makeRate(25)
const bt2020 = systems.find((s) => s.name === 'bt2020')!.colour
const fullRange: Colour = { ...bt709, fullRange: true }

/** A film of one picture that states a colour, in a container that states another, or another shape. */
function film(brand: 'mov' | 'mp4', own: Colour, entry: { colour?: Colour; pixelAspect?: string; width?: number }) {
  const f = smallFormat({ depth: 8, chroma: 1, colour: own })
  const encoder = new IntraEncoder(f)
  encoder.load(hardPicture(f, 1, 4))
  const units = unitsOf(encoder.encode({ slices: 1, qp: () => 20 }))
  const of = (type: number) => units.find((u) => (u[0]! & 31) === type)!
  const [sps, pps, slice] = [of(7), of(8), of(5)]
  const configuration = new Writer()
    .raw(Uint8Array.of(1, 110, 0x10, 41, 0xff, 0xe1))
    .u16(sps.length)
    .raw(sps)
    .u8(1)
    .u16(pps.length)
    .raw(pps)
    .bytes()
  const sample = new Writer().u32(slice.length).raw(slice).bytes()
  const { head, tail } = mp4.layout!(brand, {
    ...{ frames: 1, rate, start: { frames: 0, dropFrame: false }, chapters: [], dataSize: sample.length },
    tracks: [
      {
        essence: {
          ...{ kind: 'video', codec: 'h264', width: entry.width ?? 80, height: 64, scan: 'progressive', configuration },
          ...{ pixelAspect: entry.pixelAspect ?? '1:1', colour: entry.colour ?? own },
        },
        timescale: 25,
        sizes: Uint32Array.of(sample.length),
        durations: { constant: 1 },
        chunks: [{ offset: 0, samples: 1 }],
      },
    ],
  })
  return openMedia(memorySource(concatBytes([head, sample, tail]), `a.${brand}`))
}

describe('films', () => {
  it('that agree with their pictures have nothing said of that', async () => {
    const { info } = await film('mp4', bt2020, {})
    expect(info.video[0]!.contradictions).toEqual([])
    expect(info.problems).toEqual([])
  })
  it('of another colour say so where they are opened, and to a rule', async () => {
    const { info } = await film('mp4', bt2020, { colour: bt709 })
    const text = 'colour: BT.709 in the container, BT.2020 in the pictures'
    expect(info.problems).toMatchObject([
      { code: 'media.contradiction', message: `It says two things of its pictures: ${text}.`, where: 'a.mp4' },
    ])
    const described = describedMedia(info, null)
    expect(measureOf('contradictions').read({ described })).toEqual({ value: 1, text, faults: [text] })
  })
  it('whose container has no place for a range are of that of their pictures', async () => {
    const mov = await film('mov', fullRange, {})
    expect([mov.info.video[0]!.colour, mov.info.problems]).toEqual([fullRange, []])
    const mp4File = await film('mp4', fullRange, { colour: bt709 })
    expect(mp4File.info.video[0]!.contradictions).toHaveLength(1)
  })
  it('of another size than their pictures, whose own is taken', async () => {
    const { info } = await film('mov', bt709, { width: 96 })
    expect(info.video[0]).toMatchObject({
      ...{ width: 80, contradictions: [{ trait: 'raster', container: '96×64', pictures: '80×64' }] },
    })
  })
})

describe('an MXF file', () => {
  const write = async (own: Colour, described: Colour) => {
    const shape = { width: 1280, height: 720, rate: makeRate(50), scan: 'progressive' as const }
    const encoder = h264Intra.encode!.open({ ...shape, colour: own, bitrate: 0 }, null)
    await encoder.feed(hardPicture({ width: 1280, height: 720, chroma: 2, depth: 10 }, 1, 0))
    const picture = encoder.take()[0]!.bytes
    const units = mxf.units!('mxf', {
      video: {
        ...shape,
        kind: 'video',
        codec: 'h264-intra',
        pixelAspect: '1:1',
        colour: described,
        configuration: null,
      },
      ...{ pictureBytes: picture.length, sound: null, samplesBefore: (n: number) => n * 960, frames: 1 },
      ...{ rate: shape.rate, chapters: [], name: '', identity: new Uint8Array(16) },
      start: { frames: 0, dropFrame: false },
    })
    const parts = units.unit(0, picture, [])
    const bytes = new Uint8Array(units.tail.at + units.tail.bytes.length)
    for (const p of [{ at: 0, bytes: units.head }, ...parts, units.tail]) bytes.set(p.bytes, p.at)
    return (await openMedia(memorySource(bytes, 'a.mxf'))).info.video[0]!
  }
  it('of ours agrees with its pictures in all that both state', async () => {
    expect(await write(bt709, bt709)).toMatchObject({ ...{ width: 1280, height: 720 }, contradictions: [] })
    expect((await write(bt2020, bt2020)).contradictions).toEqual([])
  })
  it('whose descriptor has another colour says so', async () => {
    expect(await write(bt709, bt2020)).toMatchObject({
      ...{ contradictions: [{ trait: 'colour', container: 'BT.2020', pictures: 'BT.709' }], colour: bt2020 },
    })
  })
})

describe('frames whose times come near a standard rate', () => {
  const size = 256
  /** Uncompressed pictures of two lines, so many units of time each. */
  const open = (timescale: number, each: number, frames: number) => {
    const { head, tail } = mp4.layout!('mov', {
      ...{
        frames,
        rate: nearestRate(timescale / each)!,
        start: { frames: 0, dropFrame: false },
        chapters: [],
        dataSize: size * frames,
      },
      tracks: [
        {
          essence: {
            ...{ kind: 'video', codec: 'v210', width: 6, height: 2, scan: 'progressive', configuration: null },
            ...{ pixelAspect: '1:1', colour: bt709 },
          },
          timescale,
          sizes: { constant: size, count: frames },
          durations: { constant: each },
          chunks: [{ offset: 0, samples: frames }],
        },
      ],
    })
    return openMedia(memorySource(concatBytes([head, new Uint8Array(size * frames), tail]), 'a.mov'))
  }
  it('are of it where they are it, however short it is written', async () => {
    for (const [timescale, each] of [
      [24000, 1001],
      [23976, 1000],
      [2997, 100],
      [600, 24],
    ] as const) {
      const { info } = await open(timescale, each, 500)
      expect([timescale, info.video[0]!.ownRate, info.problems]).toEqual([timescale, undefined, []])
    }
  })
  it('are of their own where they are not, and say so', async () => {
    const { info } = await open(2398, 100, 500)
    expect(info.video[0]).toMatchObject({ rate: makeRate(24000, 1001), ownRate: makeRate(2398, 100) })
    expect(info.problems).toMatchObject([{ code: 'media.rate-off' }])
    expect(measureOf('frame-rate').read({ described: describedMedia(info, null) })?.value).toBe('1199/50')
  })
})
