import { expect, it } from 'vitest'
import { memorySource } from '../core/bytes'
import { IntraDecoder } from '../core/codec/h264-intra/decode'
import { IntraEncoder } from '../core/codec/h264-intra/encode'
import { kinds } from '../core/codec/h264-intra/grid'
import { chance, hardPicture, smallFormat } from '../core/codec/h264-intra/hardpictures'
import { SliceFault } from '../core/codec/h264-intra/slicebits'
import { unitsOf } from '../core/codec/nal'
import type { Format } from '../core/codec/h264-intra/write'
import { openSound } from '../core/codec/sound'
import { mxf } from '../core/container/mxf/container'
import { openMedia } from '../core/container/registry'
import { bt709 } from '../core/media/colour'
import { ProblemError } from '../core/problem'
import { makeRate } from '../core/time/rate'
import { activeFormat, captions, elementOf } from './blanking'
import { mutate, seeded } from './mutate'

// Ten thousand damaged files of each kind that broadcasters exchange: a problem that says where, at worst.

const rate = makeRate(25)

/** A file of ten small pictures that are none, with two channels. */
function smallMxf(): Uint8Array {
  const units = mxf.units!('mxf', {
    video: {
      ...{ kind: 'video', codec: 'h264-intra', width: 1920, height: 1080, pixelAspect: '1:1', colour: bt709 },
      ...{ scan: 'segmented', configuration: null },
    },
    pictureBytes: 60,
    sound: { kind: 'audio', codec: 'pcm', channels: 2, sampleRate: 200, layout: null, configuration: null, bitrate: 0 },
    samplesBefore: (n) => n * 8,
    data: ['ancillary'],
    ...{ frames: 10, rate, start: { frames: 0, dropFrame: false }, name: 'Fog Bell' },
    chapters: [{ at: 3, name: 'Low Water' }],
    identity: new Uint8Array(16).fill(7),
  })
  const bytes = new Uint8Array(units.tail.at + units.tail.bytes.length)
  bytes.set(units.head)
  bytes.set(units.tail.bytes, units.tail.at)
  const sound = [0, 1].map(() => new Float32Array(8).fill(0.1))
  for (let n = 0; n < 10; n++)
    for (const p of units.unit(n, new Uint8Array(60).fill(n), sound, [elementOf([captions(n), activeFormat])]))
      bytes.set(p.bytes, p.at)
  return bytes
}

it('of MXF', async () => {
  const whole = smallMxf()
  const next = seeded(12)
  let [read, said] = [0, 0]
  for (let n = 0; n < 10_000; n++) {
    const source = memorySource(mutate(whole, next), 'damaged.mxf')
    try {
      const media = await openMedia(source)
      for (const t of media.video)
        for (let i = 0; i < Math.min(12, t.sampleCount); i++) {
          const { offset, size } = t.sample(t.sampleOfFrame(i))
          expect(offset + size).toBeLessThanOrEqual(source.size)
        }
      await openSound(media, null)?.read(0, 50)
      for (const t of media.timecodes ?? [])
        for await (const { frame } of t.walk({ in: 0, out: 12 })) expect(frame).toBeLessThan(12)
      for (const t of media.data ?? []) for (let i = 0; i < Math.min(12, t.frames); i++) t.packets(await t.read(i))
      read++
      if (media.info.problems.length > 0) said++
    } catch (e) {
      if (!(e instanceof ProblemError)) throw e
    }
  }
  expect(read).toBeGreaterThan(1000)
  expect(said).toBeGreaterThan(100)
})

const format = (f: Partial<Format>) => smallFormat({ width: 48, height: 32, ...f })

it.each([
  ['frames, in the kernel', format({}), false],
  ['fields, in the kernel', format({ fields: 'top', height: 64 }), false],
  ['frames, plainly', format({ chroma: 1, depth: 8 }), true],
  ['by CABAC, in the kernel', format({ arithmetic: true }), false],
  ['by CABAC, plainly', format({ arithmetic: true, fields: 'top', height: 64 }), true],
  ['adaptive frames, in the kernel', format({ adaptive: true, height: 64 }), false],
  ['adaptive frames by CABAC, plainly', format({ arithmetic: true, adaptive: true, height: 64 }), true],
] as const)('of H.264 intra: %s', (_, f, plain) => {
  const encoder = new IntraEncoder(f)
  encoder.load(hardPicture(f, 4, 1 << (f.depth - 4)))
  const [kind, of] = [() => kinds.eight, chance(5)]
  const chosen = { kind, mode: (m: readonly number[]) => m[of(m.length)]!, pair: () => of(2) === 1 }
  const manner = { slices: 2, qp: (line: number) => 20 + line, filtered: true }
  const whole = encoder.encode(f.adaptive ? { ...manner, chosen } : manner)
  const next = seeded(3)
  let read = 0
  for (let n = 0; n < 10_000; n++) {
    try {
      const p = new IntraDecoder(plain).decode(unitsOf(mutate(whole, next)))
      expect(p.planes[0]!.length).toBe(p.width * p.height)
      read++
    } catch (e) {
      if (!(e instanceof SliceFault)) throw e
    }
  }
  // one wrong bin leads an arithmetic decoder astray for the rest of its slice
  expect(read).toBeGreaterThan(f.arithmetic ? 20 : 100)
})
