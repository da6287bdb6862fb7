import { describe, expect, it } from 'vitest'
import { IntraDecoder } from '../core/codec/h264-intra/decode'
import { IntraEncoder } from '../core/codec/h264-intra/encode'
import { chance, hardPicture, smallFormat } from '../core/codec/h264-intra/hardpictures'
import { unitsOf } from '../core/codec/nal'
import type { Format } from '../core/codec/h264-intra/write'
import { parseAvcConfiguration } from '../core/codec/h264/describe'
import { pictureCodec } from '../core/codec/registry'
import { pictureFromI420, type Picture } from '../core/picture/picture'
import { makeRate } from '../core/time/rate'
import { machineCodecs } from '../engine/worker/codecs'

// Pictures coded by CABAC: as what the codec package encodes and decodes itself, and as the same macroblocks by CAVLC.

const same = (a: Picture, b: Picture) => a.planes.map((p, k) => p.every((v, i) => v === b.planes[k]![i]))
const codecs = machineCodecs()

describe('macroblocks of every kind and mode are read as CAVLC has them', () => {
  it.each<[string, Format]>([
    ['10 bit 4:2:2, frames', smallFormat({})],
    ['10 bit 4:2:0, frames', smallFormat({ chroma: 1 })],
    ['8 bit 4:2:2, frames', smallFormat({ depth: 8 })],
    ['10 bit 4:2:2, fields', smallFormat({ fields: 'top', height: 96 })],
    ['10 bit 4:2:0, fields', smallFormat({ fields: 'bottom', chroma: 1, height: 96 })],
  ])('%s', (_, f) => {
    const least = -6 * (f.depth - 8)
    const coded = (arithmetic: boolean) => {
      const encoder = new IntraEncoder({ ...f, arithmetic })
      const of = chance(3)
      const chosen = { kind: () => of(16) % 5, mode: (m: readonly number[]) => m[of(m.length)]! }
      return [least, 0, 12, 26, 40, 51].map((qp, i) => {
        encoder.load(hardPicture(f, i, 1 << (f.depth - 2 - (i % 5))))
        const manner = { slices: 1 + (i % 3), qp: (line: number) => Math.max(least, qp - (line % 4) * 4) }
        return encoder.encode({ ...manner, filtered: i % 2 === 1, chosen })
      })
    }
    const bins = coded(true)
    coded(false).forEach((unit, i) => {
      const wanted = new IntraDecoder(true).decode(unitsOf(unit))
      // in the kernel, and plainly
      for (const decoder of [new IntraDecoder(), new IntraDecoder(true)])
        expect(same(decoder.decode(unitsOf(bins[i]!)), wanted)).toEqual([true, true, true])
    })
  })
})

describe.skipIf(!codecs)('what the codec package encodes', () => {
  const [width, height] = [192, 112]
  const rate = makeRate(25)

  /** Stripes with noise on them: the more, the harder. */
  function picture(n: number): Picture {
    const of = chance(n + 1)
    const bytes = new Uint8Array((width * height * 3) / 2)
    for (let i = 0; i < width * height; i++) {
      const [x, y] = [i % width, Math.floor(i / width)]
      bytes[i] = 16 + ((x * (n + 1) + y * 2 + (of(3) === 0 ? of(1 + 50 * n) : 0)) % 219)
    }
    for (let i = width * height; i < bytes.length; i++) bytes[i] = 60 + ((i * (n + 3)) % 130)
    return pictureFromI420(bytes, width, height)
  }

  it.each([0, 1, 2, 3, 4])('is read as it reads it itself: picture %i', async (n) => {
    const encoder = pictureCodec('h264')!.encode!.open({ width, height, rate, bitrate: 10 ** (5 + n / 2) }, codecs)
    await encoder.feed(picture(n))
    await encoder.flush()
    const [unit] = encoder.take()
    const configuration = encoder.configuration()!
    encoder.close()
    const sets = parseAvcConfiguration(configuration)
    // entropy_coding_mode_flag: the third bit of a set whose numbers are nought
    expect(sets.pps[0]![1]! & 0xe0).toBe(0xe0)
    const nals: Uint8Array[] = []
    const view = new DataView(unit!.bytes.buffer, unit!.bytes.byteOffset)
    for (let at = 0; at < unit!.bytes.length; at += 4 + view.getUint32(at))
      nals.push(unit!.bytes.subarray(at + 4, at + 4 + view.getUint32(at)))
    const own = new IntraDecoder().decode([...sets.sps, ...sets.pps, ...nals])

    const bytes = new Uint8Array((width * height * 3) / 2)
    let read: Promise<unknown> = Promise.resolve()
    const decoder = new codecs!.VideoDecoder({
      output: (frame) => (read = frame.copyTo(bytes)),
      error: (e) => expect.fail(e.message),
    })
    decoder.configure({ codec: 'avc1.64001f', codedWidth: width, codedHeight: height, description: configuration })
    decoder.decode(new codecs!.EncodedVideoChunk({ type: 'key', timestamp: 0, data: unit!.bytes }))
    await decoder.flush()
    await read
    expect(same(own, pictureFromI420(bytes, width, height))).toEqual([true, true, true])
  })
})
