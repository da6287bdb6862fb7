import path from 'node:path'
import { traceOf } from '../core/analysis/trace'
import { lookOf } from '../core/picture/look'
import { openPictures } from '../core/codec/pictures'
import { pictureCodec, soundCodec } from '../core/codec/registry'
import { decodeV210, encodeV210 } from '../core/codec/v210/v210'
import { openMedia } from '../core/container/registry'
import type { Picture } from '../core/picture/picture'
import { fitPicture } from '../core/picture/scale'
import { luma709 } from '../core/media/colour'
import { makeRate } from '../core/time/rate'
import { makeReel } from '../demo/reel'
import { openFile } from '../engine/storage/disk'
import { machineCodecs } from '../engine/worker/codecs'
import { jpegOf } from '../engine/worker/stills'

type Print = (name: string, figures: string) => void

const rate = makeRate(25)
const frames = 250

/** Milliseconds of processor, all threads of this process, that an action takes for each of `count`. */
async function processor(count: number, action: () => Promise<void> | void): Promise<number> {
  const before = process.cpuUsage()
  await action()
  const u = process.cpuUsage(before)
  return (u.user + u.system) / 1000 / count
}

/** A viewing copy's pictures as a worker makes them, and the parts of that one by one. */
async function viewing(print: Print, file: string): Promise<void> {
  const codecs = machineCodecs()
  const source = await openFile(file)
  const media = await openMedia(source)
  const pictures = () => openPictures(media, codecs).read({ in: 0, out: frames })
  const encoder = () =>
    pictureCodec('h264')!.encode!.open({ width: 1280, height: 720, rate, bitrate: 6_000_000 }, codecs)
  const encode = async (give: () => AsyncIterable<Picture> | Iterable<Picture>) => {
    const e = encoder()
    for await (const picture of give()) {
      await e.feed(picture)
      e.take()
    }
    await e.flush()
    e.close()
  }
  const large: Picture[] = []
  const decode = await processor(frames, async () => {
    for await (const { picture } of pictures()) if (large.length < 25) large.push(picture)
  })
  const small: Picture[] = []
  const scale = await processor(frames, () => {
    for (let i = 0; i < frames; i++)
      small[i % 25] = fitPicture(large[i % 25]!, { width: 1280, height: 720, fit: 'letterbox' })
  })
  const encoding = await processor(frames, () =>
    encode(function* () {
      for (let i = 0; i < frames; i++) yield small[i % 25]!
    }),
  )
  const whole = await processor(frames, () =>
    encode(async function* () {
      for await (const { picture } of pictures())
        yield fitPicture(picture, { width: 1280, height: 720, fit: 'letterbox' })
    }),
  )
  const trace = await processor(frames, () => {
    for (let i = 0; i < frames; i++) traceOf(large[i % 25]!)
  })
  const preview = await processor(50, async () => {
    for (let i = 0; i < 50; i++) await jpegOf(large[i % 25]!, 480, luma709)
  })
  const alone = decode + encoding
  const ms = (list: Record<string, number>) =>
    Object.entries(list)
      .map(([name, v]) => `${name} ${v.toFixed(1)}`)
      .join(', ')
  print('a frame of a viewing copy, ms of processor', ms({ decode, scale, encode: encoding, 'all at once': whole }))
  print('the codec package alone against all of it', `${(alone / whole).toFixed(2)} × (goal ≥ 0.8)`)
  print('a frame of the pass, ms of processor', ms({ decode, trace, preview }))
  print('the pass against decoding alone', `${((decode + trace + preview) / decode).toFixed(2)} × (goal ≤ 1.15)`)
  const [first] = large as [Picture]
  const packed = encodeV210(first)
  const into = new Uint8Array(packed.length)
  const many = (action: () => void) =>
    processor(30, () => {
      for (let i = 0; i < 30; i++) action()
    })
  const pack = await many(() => void encodeV210(first, into))
  const unpack = await many(() => void decodeV210(packed, 1920, 1080))
  const wide = decodeV210(packed, 1920, 1080)
  const look = await many(() => void lookOf(wide))
  const traced = await many(() => void traceOf(wide))
  print('a frame of a master and of its proof, ms', ms({ decode, pack, look, unpack, trace: traced }))
  await source.close()
}

/** What a second of stereo takes to be encoded. */
async function sound(print: Print): Promise<void> {
  const second = [0, 1].map((c) => Float32Array.from({ length: 48000 }, (_, i) => 0.4 * Math.sin(i * (0.03 + c / 100))))
  const e = soundCodec('aac')!.encode!.open({ channels: 2, sampleRate: 48000, bitrate: 192_000 }, machineCodecs())
  const spent = await processor(20, async () => {
    for (let i = 0; i < 20; i++) {
      await e.feed(second)
      e.take()
    }
    await e.flush()
  })
  e.close()
  print('AAC of a second of stereo, the codec package', `${spent.toFixed(0)} ms of processor`)
}

/** Where the time of a night goes, recipe by recipe. */
export async function stages(folder: string, print: Print): Promise<void> {
  const shots = [{ scene: 'bell' as const, frames, name: 'bell', reel: 'BELL', clean: true }]
  const plan = { width: 1920, height: 1080, rate, dropFrame: false, start: 0, shots, bitrate: 6_000_000 }
  const silence = new Float32Array(frames * 1920)
  const coded = { pictures: 'h264', sound: 'pcm', container: 'mov', channels: [silence, silence] } as const
  const file = path.join(folder, 'stages.mov')
  await makeReel(file, { ...plan, ...coded }, machineCodecs())
  await viewing(print, file)
  await sound(print)
}
