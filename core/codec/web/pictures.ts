import { readExactly } from '../../bytes'
import { countAt } from '../../media/starttimecode'
import type { Media, SampleRef, VideoTrack } from '../../media/media'
import { chromaSize, pictureFromI420, toChroma422, type Picture } from '../../picture/picture'
import { fail, ProblemError } from '../../problem'
import type { FrameRange } from '../../time/range'
import type { Frames } from '../../time/rate'
import { formatTimecode } from '../../time/timecode'
import type { PictureCodec } from '../codec'
import { Backlog } from './backlog'
import { needCodecs, type WebCodecs } from './webcodecs'

/** Decoding of a picture codec through the W3C WebCodecs interface. */
export function webPictures(label: string): PictureCodec['decode'] {
  return {
    needsWeb: true,
    open(media, track, codecs) {
      const web = needCodecs(codecs, label)
      return { frames: track.info.frames, read: (range) => readCoded(media, track, range, web) }
    },
  }
}

/**
 * The decode position from which frame `n` comes out right: its sync sample, or the one before when the frame is shown
 * before that sync sample (a leading picture of an open group, which leans on the group before).
 */
export function decodeStart(track: VideoTrack, n: Frames): number {
  const index = track.sampleOfFrame(n)
  const shown = track.sample(index).pts
  let sync = track.syncBefore(index)
  while (sync > 0 && track.sample(sync).pts > shown) sync = track.syncBefore(sync - 1)
  return sync
}

async function* readCoded(media: Media, track: VideoTrack, range: FrameRange, web: WebCodecs) {
  if (range.out <= range.in) return
  const first = decodeStart(track, range.in)
  let last = first
  const framesOfTime = new Map<number, Frames[]>()
  for (let n = range.in; n < range.out; n++) {
    const index = track.sampleOfFrame(n)
    last = Math.max(last, index)
    const { pts } = track.sample(index)
    framesOfTime.set(pts, [...(framesOfTime.get(pts) ?? []), n])
  }
  let next = range.in
  const damaged = (why: string) =>
    fail(
      'media.undecodable',
      `The pictures cannot be decoded at frame ${next} (${why.replace(/\.$/, '')}).`,
      placeOf(media, track, next),
      'The file is damaged there; copy it again from where it came from.',
    )
  const frames = new FrameDecoder(track, framesOfTime, web)
  try {
    for (let i = first; i <= last; i++) {
      const s = track.sample(i)
      await frames.feed(s, await readExactly(media.source, s.offset, s.size))
      for (let picture = frames.take(next); picture; picture = frames.take(next)) yield { frame: next++, picture }
    }
    await frames.flush()
    while (next < range.out) {
      const picture = frames.take(next) ?? damaged('no picture came')
      yield { frame: next++, picture }
    }
  } catch (e) {
    if (e instanceof ProblemError) throw e
    damaged((e as Error).message)
  } finally {
    frames.close()
  }
}

/** A file, and the timecode of a frame of it. */
function placeOf(media: Media, track: VideoTrack, frame: Frames): string {
  const { timecode } = media.info
  const base = { rate: timecode?.rate ?? track.info.rate, dropFrame: timecode?.dropFrame ?? false }
  return `${media.source.name}, ${formatTimecode(timecode ? countAt(timecode, frame) : frame, base)}`
}

/** What a decoder has given so far. */
interface Given {
  readonly framesOfTime: ReadonlyMap<number, readonly Frames[]>
  readonly ready: Map<Frames, Picture>
  readonly pending: Promise<void>[]
  readonly backlog: Backlog
}

/**
 * A decoder that gives into what it is told to. The codec package holds the callbacks for as long as the decoder is
 * there: what they reach may not lead back to it, or both stay for ever, with all memory of the decoder.
 */
function decoderInto(given: Given, web: WebCodecs): VideoDecoder {
  const decoder = new web.VideoDecoder({
    output: (output) => keep(given, output),
    error: (e) => given.backlog.failed(new Error(`The decoder stopped: ${e.message}`)),
  })
  decoder.ondequeue = given.backlog.dequeued
  return decoder
}

function keep(given: Given, output: VideoFrame): void {
  const frames = given.framesOfTime.get(output.timestamp)
  if (!frames) {
    output.close()
    return
  }
  given.pending.push(
    pictureOf(output)
      .then((p) => frames.forEach((frame) => given.ready.set(frame, p)), given.backlog.failed)
      .finally(() => output.close()),
  )
}

/**
 * A decoder whose pictures are taken by the frame they are; `framesOfTime` tells which frames show the one of a time.
 */
class FrameDecoder {
  private readonly decoder: VideoDecoder
  private readonly given: Given

  constructor(
    track: VideoTrack,
    framesOfTime: ReadonlyMap<number, readonly Frames[]>,
    private readonly web: WebCodecs,
  ) {
    this.given = { framesOfTime, ready: new Map(), pending: [], backlog: new Backlog() }
    this.decoder = decoderInto(this.given, web)
    try {
      this.decoder.configure({
        codec: track.info.webCodec!,
        codedWidth: track.info.width,
        codedHeight: track.info.height,
        ...(track.configuration ? { description: track.configuration } : {}),
      })
    } catch (e) {
      this.close()
      throw e
    }
  }

  async feed(s: SampleRef, data: Uint8Array): Promise<void> {
    this.decoder.decode(new this.web.EncodedVideoChunk({ type: s.sync ? 'key' : 'delta', timestamp: s.pts, data }))
    this.given.backlog.add()
    await this.given.backlog.below(6, () => this.decoder.decodeQueueSize)
  }

  /** The picture of a frame, once it is there. */
  take(frame: Frames): Picture | undefined {
    const picture = this.given.ready.get(frame)
    this.given.ready.delete(frame)
    return picture
  }

  async flush(): Promise<void> {
    await this.decoder.flush()
    await Promise.all(this.given.pending)
    if (this.given.backlog.error) throw this.given.backlog.error
  }

  close(): void {
    this.given.ready.clear()
    if (this.decoder.state !== 'closed') this.decoder.close()
  }
}

/** Copies a decoder's frame into planes of our own. */
async function pictureOf(frame: VideoFrame): Promise<Picture> {
  const width = frame.visibleRect?.width ?? frame.codedWidth
  const height = frame.visibleRect?.height ?? frame.codedHeight
  const bytes = new Uint8Array(frame.allocationSize())
  const layout = await frame.copyTo(bytes)
  const c = chromaSize({ width, height, chroma: '4:2:0' })
  if (frame.format === 'I420') {
    if (layout.every((l, i) => l.stride === (i === 0 ? width : c.width))) return pictureFromI420(bytes, width, height)
    const plane = (i: number, w: number, h: number) => {
      const out = new Uint8Array(w * h)
      for (let y = 0; y < h; y++)
        out.set(
          bytes.subarray(layout[i]!.offset + y * layout[i]!.stride, layout[i]!.offset + y * layout[i]!.stride + w),
          y * w,
        )
      return out
    }
    return {
      width,
      height,
      chroma: '4:2:0',
      bitDepth: 8,
      planes: [plane(0, width, height), plane(1, c.width, c.height), plane(2, c.width, c.height)],
    }
  }
  if (frame.format === 'NV12') {
    const y = bytes.subarray(0, width * height)
    const u = new Uint8Array(c.width * c.height)
    const v = new Uint8Array(c.width * c.height)
    for (let i = 0; i < u.length; i++) {
      u[i] = bytes[width * height + 2 * i]!
      v[i] = bytes[width * height + 2 * i + 1]!
    }
    return { width, height, chroma: '4:2:0', bitDepth: 8, planes: [y, u, v] }
  }
  if (frame.format === 'I422') {
    const n = c.width * height
    return toChroma422({
      width,
      height,
      chroma: '4:2:2',
      bitDepth: 8,
      planes: [
        bytes.subarray(0, width * height),
        bytes.subarray(width * height, width * height + n),
        bytes.subarray(width * height + n, width * height + 2 * n),
      ],
    })
  }
  return fail('codec.format', `The decoder gives pictures of kind “${frame.format}”, which cannot be used here.`)
}
