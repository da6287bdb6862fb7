import { readExactly } from '../../bytes'
import type { Media, VideoTrack } from '../../media/media'
import { chromaSize, pictureFromI420, toChroma422, type Picture } from '../../picture/picture'
import { fail } from '../../problem'
import type { FrameRange } from '../../time/range'
import type { Frames } from '../../time/rate'
import type { PictureCodec } from '../codec'
import { needCodecs, settle, type WebCodecs } from './webcodecs'

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
  const frameOfTime = new Map<number, Frames>()
  for (let n = range.in; n < range.out; n++) {
    const index = track.sampleOfFrame(n)
    last = Math.max(last, index)
    frameOfTime.set(track.sample(index).pts, n)
  }
  const ready = new Map<Frames, Picture>()
  let error: Error | null = null
  const pending: Promise<void>[] = []
  const decoder = new web.VideoDecoder({
    output: (output) => {
      const frame = frameOfTime.get(output.timestamp)
      if (frame === undefined) {
        output.close()
        return
      }
      pending.push(
        pictureOf(output)
          .then(
            (p) => void ready.set(frame, p),
            (e: Error) => void (error ??= e),
          )
          .finally(() => output.close()),
      )
    },
    error: (e) => {
      error ??= new Error(`The decoder stopped: ${e.message}`)
    },
  })
  const failed = () => error
  try {
    decoder.configure({
      codec: track.info.webCodec!,
      codedWidth: track.info.width,
      codedHeight: track.info.height,
      ...(track.configuration ? { description: track.configuration } : {}),
    })
    let next = range.in
    for (let i = first; i <= last; i++) {
      const s = track.sample(i)
      decoder.decode(
        new web.EncodedVideoChunk({
          type: s.sync ? 'key' : 'delta',
          timestamp: s.pts,
          data: await readExactly(media.source, s.offset, s.size),
        }),
      )
      await settle(() => decoder.decodeQueueSize < 6, failed)
      for (let picture = ready.get(next); picture; picture = ready.get(next)) {
        ready.delete(next)
        yield { frame: next++, picture }
      }
    }
    await decoder.flush()
    await Promise.all(pending)
    if (error) throw error
    while (next < range.out) {
      const picture =
        ready.get(next) ??
        fail(
          'media.undecodable',
          `Frame ${next} could not be decoded.`,
          media.source.name,
          'The file is damaged there; copy it again from where it came from.',
        )
      ready.delete(next)
      yield { frame: next++, picture }
    }
  } finally {
    if (decoder.state !== 'closed') decoder.close()
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
