import { stat, truncate } from 'node:fs/promises'
import path from 'node:path'
import { IntraDecoder } from '../core/codec/h264-intra/decode'
import { needClass } from '../core/codec/h264-intra/class'
import { h264Intra } from '../core/codec/h264-intra/codec'
import { hardPicture } from '../core/codec/h264-intra/hardpictures'
import { unitsOf } from '../core/codec/nal'
import { decodeFrame } from '../core/codec/rdd36/decode'
import { frameOf } from '../core/codec/rdd36/samples'
import { Mpeg2Decoder } from '../core/codec/mpeg2/decode'
import { pictureCodec } from '../core/codec/registry'
import { mxf } from '../core/container/mxf/container'
import { openMedia } from '../core/container/registry'
import { bt709 } from '../core/media/colour'
import { toChroma422, toDepth, type Picture } from '../core/picture/picture'
import { makeRate } from '../core/time/rate'
import { sampleAtFrame } from '../core/time/samples'
import { drawFrame } from '../demo/reel'
import { fileSink, openFile } from '../engine/storage/disk'

type Print = (name: string, figures: string) => void

const rate = makeRate(25)
const shape = { width: 1920, height: 1080, rate, scan: 'segmented' as const }
const shots = (['chainWide', 'bell', 'gannets'] as const).map((scene) => ({ scene, frames: 10, name: scene, reel: '' }))

/** Signal to noise of luma, dB. */
function psnr(a: Picture, b: Picture): number {
  let error = 0
  a.planes[0].forEach((v, i) => (error += (v - b.planes[0][i]!) ** 2))
  return 10 * Math.log10(1023 ** 2 / (error / a.planes[0].length))
}

async function pictures(print: Print, name: string, list: readonly Picture[]): Promise<Uint8Array[]> {
  const { width, height } = list[0]!
  const encoder = h264Intra.encode!.open({ ...shape, width, height, bitrate: 0 }, null)
  const units: Uint8Array[] = []
  // what is compiled and learnt with the first does not count
  await encoder.feed(list[0]!)
  encoder.take()
  let began = performance.now()
  for (const p of list) {
    await encoder.feed(p)
    units.push(...encoder.take().map((u) => u.bytes))
  }
  const encode = (list.length * 1000) / (performance.now() - began)
  const decoder = new IntraDecoder()
  const decoded: Picture[] = [decoder.decode(unitsOf(units[0]!))]
  began = performance.now()
  for (const u of units.slice(1)) decoded.push(decoder.decode(unitsOf(u)))
  const decode = ((list.length - 1) * 1000) / (performance.now() - began)
  const worst = Math.min(...decoded.map((p, i) => psnr(p, list[i]!)))
  print(
    `class ${needClass({ ...shape, width, height }).of.name}, ${name}`,
    `encode ${encode.toFixed(1)} frames a second (goal ≥ 15), decode ${decode.toFixed(1)} (≥ 30)`,
  )
  print('  as decoded, at worst', `${worst.toFixed(1)} dB`)
  return units
}

/** Intra pictures of MPEG-2 at 100 Mbit/s, coded and decoded. */
async function mpeg2(print: Print, list: readonly Picture[]): Promise<void> {
  const encoder = pictureCodec('mpeg2')!.encode!.open({ ...shape, bitrate: 100e6 }, null)
  await encoder.feed(list[0]!)
  encoder.take()
  let began = performance.now()
  for (const p of list) await encoder.feed({ ...p })
  const encode = (list.length * 1000) / (performance.now() - began)
  const units = encoder.take().map((u) => u.bytes)
  const decoder = new Mpeg2Decoder()
  decoder.decode(units[0]!)
  began = performance.now()
  const frames = units.map((u) => decoder.decode(u).frame)
  const decode = (units.length * 1000) / (performance.now() - began)
  const luma = (i: number) => frames[i]!.planes[0].subarray(0, list[i]!.planes[0].length)
  let error = 0
  list[0]!.planes[0].forEach((v, i) => (error += (v / 4 - luma(0)[i]!) ** 2))
  const db = 10 * Math.log10(255 ** 2 / (error / list[0]!.planes[0].length))
  print('MPEG-2 intra at 100 Mbit/s', `encode ${encode.toFixed(1)} frames a second, decode ${decode.toFixed(1)}`)
  print('  as decoded, the first', `${db.toFixed(1)} dB of 8 bits`)
}

/** Frames of RDD 36, decoded. */
function mezzanine(print: Print, { width, height, planes }: Picture): void {
  const sample = (k: number, x: number, y: number) => planes[k]![y * (k === 0 ? width : width / 2) + x]!
  for (const index of [2, 6]) {
    const unit = frameOf({ width, height, index, sample })
    decodeFrame(unit)
    const began = performance.now()
    for (let n = 0; n < 20; n++) decodeFrame(unit)
    const each = (performance.now() - began) / 20
    print(
      `RDD 36 of ${(unit.length / 1e6).toFixed(2)} MB a frame`,
      `decode ${(1000 / each).toFixed(1)} frames a second`,
    )
  }
}

/** What broadcast masters cost: their pictures, writing them, opening large ones. */
export async function broadcast(print: Print, folder: string): Promise<void> {
  const plan = { width: 1920, height: 1080, rate, dropFrame: false, start: 0, shots }
  const drawn = Array.from({ length: 30 }, (_, n) => toChroma422(toDepth(drawFrame(plan, n), 10)))
  const units = await pictures(print, 'the demo’s pictures', drawn)
  const narrow = { ...plan, width: 1440 }
  await pictures(
    print,
    'the demo’s pictures',
    drawn.map((_, n) => toDepth(drawFrame(narrow, n), 10)),
  )
  await mpeg2(print, drawn)
  mezzanine(print, drawn[0]!)
  const format = { width: 1920, height: 1080, depth: 10, chroma: 2 } as const
  for (const noise of [0, 24]) {
    const hard = Array.from({ length: 8 }, (_, n) => hardPicture(format, n, noise))
    await pictures(print, `edges everywhere, ${noise} codes of noise`, hard)
  }
  await writing(print, folder, units[0]!)
  await opening(print, folder, units[0]!)
}

function layout(frames: number, pictureBytes: number) {
  const channels = 16
  const samplesBefore = (n: number) => sampleAtFrame(n, rate, 48000)
  const units = mxf.units!('mxf', {
    video: { ...shape, kind: 'video', codec: 'h264-intra', pixelAspect: '1:1', colour: bt709, configuration: null },
    sound: { kind: 'audio', codec: 'pcm', channels, sampleRate: 48000, layout: null, configuration: null, bitrate: 0 },
    ...{ pictureBytes, samplesBefore, frames, rate, chapters: [], name: '', identity: new Uint8Array(16) },
    start: { frames: 0, dropFrame: false },
  })
  const sound = Array.from({ length: channels }, (_, c) => new Float32Array(1920).fill(c / 100))
  return { units, sound }
}

async function writing(print: Print, folder: string, unit: Uint8Array): Promise<void> {
  const frames = 750
  const { units, sound } = layout(frames, unit.length)
  const bytes = units.tail.at + units.tail.bytes.length
  type Sink = Awaited<ReturnType<typeof fileSink>>
  const timed = async (name: string, write: (sink: Sink) => Promise<void>) => {
    const sink = await fileSink(path.join(folder, name))
    const began = performance.now()
    await write(sink)
    await sink.finish()
    return performance.now() - began
  }
  const block = new Uint8Array(Math.ceil(bytes / frames))
  const copied = await timed('copied.mxf', async (sink) => {
    for (let n = 0; n < frames; n++) await sink.write(n * block.length, block)
  })
  const written = await timed('written.mxf', async (sink) => {
    await sink.write(0, units.head)
    for (let n = 0; n < frames; n++) for (const p of units.unit(n, unit, sound)) await sink.write(p.at, p.bytes)
    await sink.write(units.tail.at, units.tail.bytes)
  })
  print('MXF of 16 tracks written, against copying its bytes', `${(copied / written).toFixed(2)} × as fast (≥ 0.8)`)
}

/** A picture of class 100. */
export async function pictureUnit(): Promise<Uint8Array> {
  const encoder = h264Intra.encode!.open({ ...shape, bitrate: 0 }, null)
  const plan = { width: 1920, height: 1080, rate, dropFrame: false, start: 0, shots }
  await encoder.feed(toChroma422(toDepth(drawFrame(plan, 0), 10)))
  return encoder.take()[0]!.bytes
}

/** An MXF of 16 tracks of which a few frames are written: what is not takes no room on the disk. */
export async function sparseMxf(file: string, frames: number, unit: Uint8Array): Promise<void> {
  const { units, sound } = layout(frames, unit.length)
  const sink = await fileSink(file)
  const looked = [...Array.from({ length: 10 }, (_, i) => i), frames >> 2, frames >> 1, frames - 1]
  await sink.write(0, units.head)
  for (const n of looked) for (const p of units.unit(n, unit, sound)) await sink.write(p.at, p.bytes)
  await sink.write(units.tail.at, units.tail.bytes)
  await sink.finish()
}

async function opening(print: Print, folder: string, unit: Uint8Array): Promise<void> {
  const large = path.join(folder, 'large.mxf')
  await sparseMxf(large, 75_000, unit)
  await opened(print, large, 'opened')
  const broken = path.join(folder, 'written.mxf')
  await truncate(broken, Math.floor((await stat(broken)).size * 0.6))
  await opened(print, broken, 'that breaks off opened')
}

async function opened(print: Print, file: string, what: string): Promise<void> {
  const source = await openFile(file)
  let read = 0
  const counted = {
    name: source.name,
    size: source.size,
    read(at: number, length: number) {
      read += length
      return source.read(at, length)
    },
  }
  const began = performance.now()
  const media = await openMedia(counted)
  const took = performance.now() - began
  await source.close()
  print(
    `an MXF of ${(source.size / 1e9).toFixed(1)} GB ${what}`,
    `${took.toFixed(0)} ms, ${(read / 1e6).toFixed(1)} MB read, ${media.info.durationFrames} frames`,
  )
}
