import { readFile, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { fromBase64, toBase64, Writer } from '../../../core/bytes'
import { needCodecs, settle } from '../../../core/codec/web/webcodecs'
import { i420Bytes } from '../../../core/picture/picture'
import { planTasks } from '../../../core/job/steps'
import { fail } from '../../../core/problem'
import { avcLevel } from '../../../core/recipe/output'
import type { FrameRange } from '../../../core/time/range'
import { nominalRate } from '../../../core/time/rate'
import { mulDivRound, sampleAtFrame } from '../../../core/time/samples'
import { aacEntry, avcEntry, aspectValue, tmcdEntry } from '../../../core/container/mp4/entrywriter'
import { chapterTrack, movieHead, type WrapTrack } from '../../../core/container/mp4/write'
import { fileSink, openFile } from '../../storage/disk'
import { scratchFile, type OpenItem, type TaskContext } from '../context'

/** What stands beside a scratch file of coded samples: how to cut it into samples again. */
interface Coded {
  readonly configuration: string
  readonly sizes: number[]
  readonly sync: number[]
}

async function saveCoded(file: string, coded: Coded, parts: readonly Uint8Array[]): Promise<void> {
  const sink = await fileSink(file)
  let at = 0
  for (const p of parts) {
    await sink.write(at, p)
    at += p.length
  }
  await sink.finish()
  await writeFile(`${file}.json`, JSON.stringify(coded))
}

/** Encodes one segment of pictures as H.264, beginning with a sync sample so that segments can be joined. */
export async function viewingSegment(
  context: TaskContext,
  source: OpenItem,
  range: FrameRange,
  folder: string,
  key: string,
): Promise<void> {
  const web = needCodecs(context.codecs, 'H.264')
  const { item, output } = source
  const v = output.video!
  const { rate } = item.timeline
  const parts: Uint8Array[] = []
  const sizes: number[] = []
  const sync: number[] = []
  let configuration = ''
  let error: Error | null = null
  const encoder = new web.VideoEncoder({
    output: (chunk, meta) => {
      const bytes = new Uint8Array(chunk.byteLength)
      chunk.copyTo(bytes)
      parts.push(bytes)
      sizes.push(bytes.length)
      sync.push(chunk.type === 'key' ? 1 : 0)
      const d = meta?.decoderConfig?.description
      if (d && !configuration) configuration = toBase64(d instanceof Uint8Array ? d : new Uint8Array(d as ArrayBuffer))
    },
    error: (e) => {
      error ??= new Error(`The encoder stopped: ${e.message}`)
    },
  })
  const level = avcLevel(v.width, v.height, rate).toString(16).padStart(2, '0')
  encoder.configure({
    codec: `avc1.6400${level}`,
    width: v.width,
    height: v.height,
    bitrate: item.recipe.pictureBitrate * 1000,
    framerate: rate.num / rate.den,
    latencyMode: 'quality',
    avc: { format: 'avc' },
  })
  const group = nominalRate(rate)
  try {
    for await (const { frame, picture } of source.pictures().read(range)) {
      const n = frame - range.in
      const input = new web.VideoFrame(i420Bytes(source.render(picture, frame)), {
        format: 'I420',
        codedWidth: v.width,
        codedHeight: v.height,
        timestamp: mulDivRound(n * 1_000_000, rate.den, rate.num),
        duration: mulDivRound(1_000_000, rate.den, rate.num),
      })
      encoder.encode(input, { keyFrame: n % group === 0 })
      input.close()
      await settle(
        () => encoder.encodeQueueSize < 6,
        () => error,
      )
      await context.progress(n)
    }
    await encoder.flush()
  } finally {
    if (encoder.state !== 'closed') encoder.close()
  }
  if (error) throw error
  if (sizes.length !== range.out - range.in)
    fail(
      'encode.count',
      `The encoder gave ${sizes.length} pictures for ${range.out - range.in}.`,
      item.target.path,
      'Run it again; if it happens again, use another recipe.',
    )
  await saveCoded(path.join(folder, key), { configuration, sizes, sync }, parts)
}

/** Samples the AAC encoder puts before the first one it was given; the edit list skips them. */
export const aacPriming = 1024
const aacPacket = 1024

/** Encodes all sound of a deliverable as AAC. */
export async function viewingSound(context: TaskContext, source: OpenItem, folder: string): Promise<void> {
  const web = needCodecs(context.codecs, 'AAC')
  const { item, output } = source
  const a = output.audio!
  const parts: Uint8Array[] = []
  const sizes: number[] = []
  let configuration = ''
  let error: Error | null = null
  const encoder = new web.AudioEncoder({
    output: (chunk, meta) => {
      const bytes = new Uint8Array(chunk.byteLength)
      chunk.copyTo(bytes)
      parts.push(bytes)
      sizes.push(bytes.length)
      const d = meta?.decoderConfig?.description
      if (d && !configuration) configuration = toBase64(d instanceof Uint8Array ? d : new Uint8Array(d as ArrayBuffer))
    },
    error: (e) => {
      error ??= new Error(`The sound encoder stopped: ${e.message}`)
    },
  })
  encoder.configure({
    codec: 'mp4a.40.2',
    sampleRate: a.sampleRate,
    numberOfChannels: a.channels,
    bitrate: item.recipe.soundBitrate * 1000,
  })
  const first = sampleAtFrame(item.region.in, item.timeline.rate, a.sampleRate)
  const step = a.sampleRate
  for (let at = 0; at < output.samples; at += step) {
    const n = Math.min(step, output.samples - at)
    const channels = await source.soundOf(first + at, n)
    const data = new Float32Array(n * a.channels)
    channels.forEach((c, i) => data.set(c, i * n))
    const input = new web.AudioData({
      format: 'f32-planar',
      sampleRate: a.sampleRate,
      numberOfFrames: n,
      numberOfChannels: a.channels,
      timestamp: mulDivRound(at, 1_000_000, a.sampleRate),
      data,
    })
    encoder.encode(input)
    input.close()
    await settle(
      () => encoder.encodeQueueSize < 16,
      () => error,
    )
    await context.progress(mulDivRound(output.frames, at, Math.max(1, output.samples)))
  }
  await encoder.flush()
  encoder.close()
  if (error) throw error
  await saveCoded(path.join(folder, 'sound'), { configuration, sizes, sync: [] }, parts)
}

/** Joins segments and sound into an MP4 file with its index in front, half a second of each at a time. */
export async function viewingJoin(context: TaskContext, source: OpenItem, folder: string): Promise<void> {
  const { item, output } = source
  const v = output.video!
  const a = output.audio
  const { rate } = item.timeline
  const keys = planTasks(item)
    .filter((t) => t.kind === 'segment')
    .map((t) => t.key)
  const load = async (key: string) => JSON.parse(await readFile(path.join(folder, `${key}.json`), 'utf8')) as Coded
  const segments = await Promise.all(keys.map(load))
  const sound = a ? await load('sound') : null
  const configuration = segments[0]!.configuration
  if (segments.some((s) => s.configuration !== configuration))
    fail(
      'encode.parameters',
      'Segments came out with different parameter sets and cannot be joined.',
      item.target.path,
      'Run it again; if it happens again, use another recipe.',
    )
  const sizes = segments.flatMap((s) => s.sizes)
  const sync = Uint8Array.from(segments.flatMap((s) => s.sync))
  const half = Math.max(1, Math.round(nominalRate(rate) / 2))
  const pictureChunks: { offset: number; samples: number }[] = []
  const soundChunks: { offset: number; samples: number }[] = []
  /** Copies, in file order: which stream, how many bytes. */
  const order: { sound: boolean; bytes: number }[] = []
  let at = 16
  let packet = 0
  for (let n = 0; n < sizes.length; n += half) {
    const end = Math.min(sizes.length, n + half)
    let bytes = 0
    for (let i = n; i < end; i++) bytes += sizes[i]!
    pictureChunks.push({ offset: at, samples: end - n })
    order.push({ sound: false, bytes })
    at += bytes
    if (!sound || !a) continue
    const until =
      end === sizes.length
        ? sound.sizes.length
        : Math.min(sound.sizes.length, Math.ceil((sampleAtFrame(end, rate, a.sampleRate) + aacPriming) / aacPacket))
    if (until <= packet) continue
    bytes = 0
    for (let i = packet; i < until; i++) bytes += sound.sizes[i]!
    soundChunks.push({ offset: at, samples: until - packet })
    order.push({ sound: true, bytes })
    at += bytes
    packet = until
  }
  const tracks: WrapTrack[] = [
    {
      kind: 'video',
      timescale: rate.num,
      width: v.width,
      height: v.height,
      displayWidth: v.width * aspectValue(v.pixelAspect),
      sampleEntry: avcEntry(
        {
          width: v.width,
          height: v.height,
          pixelAspect: v.pixelAspect,
          colour: source.info.video[0]!.colour,
          scan: 'progressive',
        },
        fromBase64(configuration),
      ),
      sizes: Uint32Array.from(sizes),
      durations: { constant: rate.den },
      sync,
      chunks: pictureChunks,
    },
  ]
  if (a && sound) {
    tracks.push({
      kind: 'audio',
      timescale: a.sampleRate,
      sampleEntry: aacEntry(a.channels, a.sampleRate, fromBase64(sound.configuration), item.recipe.soundBitrate * 1000),
      sizes: Uint32Array.from(sound.sizes),
      durations: { constant: aacPacket },
      chunks: soundChunks,
      edit: { mediaTime: aacPriming, duration: output.samples },
    })
  }
  tracks.push({
    kind: 'timecode',
    timescale: rate.num,
    sampleEntry: tmcdEntry(rate, output.start.dropFrame),
    sizes: { constant: 4, count: 1 },
    durations: { constant: output.frames * rate.den },
    chunks: [{ offset: 0, samples: 1 }],
  })
  const chapters = chapterTrack(item.chapters, output.frames, rate, 'mp4', at)
  if (chapters) tracks.push(chapters.track)
  const head = movieHead({ brand: 'mp4', tracks, dataSize: at + (chapters?.bytes.length ?? 0), created: 0 })
  const sink = await fileSink(scratchFile(folder, item))
  const pictures = await chain(keys.map((k) => path.join(folder, k)))
  const packets = sound ? await chain([path.join(folder, 'sound')]) : null
  try {
    await sink.write(0, head)
    await sink.write(head.length, new Writer().u32(output.start.frames).zero(12).bytes())
    let position = head.length + 16
    let done = 0
    for (const o of order) {
      const bytes = await (o.sound ? packets! : pictures).next(o.bytes)
      await sink.write(position, bytes)
      position += bytes.length
      if (!o.sound) done += half
      await context.progress(Math.min(done, output.frames))
    }
    if (chapters) await sink.write(head.length + at, chapters.bytes)
    await sink.finish()
  } catch (e) {
    await sink.close().catch(() => undefined)
    throw e
  } finally {
    await pictures.close()
    await packets?.close()
  }
}

/** Files read one after the other as if they were one. */
async function chain(files: readonly string[]) {
  const open = await Promise.all(files.map((f) => openFile(f)))
  let index = 0
  let at = 0
  return {
    async next(length: number): Promise<Uint8Array> {
      const out = new Uint8Array(length)
      let filled = 0
      while (filled < length) {
        const file =
          open[index] ??
          fail(
            'scratch.short',
            'A scratch file is shorter than it was when it was written.',
            files.at(-1),
            'Run it again.',
          )
        const part = await file.read(at, length - filled)
        out.set(part, filled)
        filled += part.length
        at += part.length
        if (at >= file.size) {
          index++
          at = 0
        }
      }
      return out
    },
    close: async () => void (await Promise.all(open.map((f) => f.close()))),
  }
}
