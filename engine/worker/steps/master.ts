import { open } from 'node:fs/promises'
import { encodePcm } from '../../../core/codec/pcm/pcm'
import { encodeV210, v210Size } from '../../../core/codec/v210/v210'
import { Writer } from '../../../core/bytes'
import type { FrameRange } from '../../../core/time/range'
import { sampleAtFrame } from '../../../core/time/samples'
import { aspectValue, pcm24Entry, tmcdEntry, v210Entry } from '../../../core/container/mp4/entrywriter'
import { chapterTrack, movieHead, type WrapTrack } from '../../../core/container/mp4/write'
import { fileSink } from '../../storage/disk'
import { scratchFile, type OpenItem, type TaskContext } from '../context'

/**
 * Where everything of an uncompressed master stands in its file: all sizes are known before a frame is made, so that
 * segments write straight into their place. Each frame is followed by its own sound; the timecode comes first.
 */
function layout(open: OpenItem) {
  const { item, output } = open
  const v = output.video!
  const a = output.audio
  const { rate } = item.timeline
  const frames = output.frames
  const picture = v210Size(v.width, v.height)
  const channels = a?.channels ?? 0
  const first = sampleAtFrame(item.region.in, rate, a?.sampleRate ?? 48000)
  const samplesBefore = (n: number) => sampleAtFrame(item.region.in + n, rate, a?.sampleRate ?? 48000) - first
  const offset = (n: number) => 16 + n * picture + samplesBefore(n) * channels * 3
  const tracks: WrapTrack[] = [
    {
      kind: 'video',
      timescale: rate.num,
      width: v.width,
      height: v.height,
      displayWidth: v.width * aspectValue(v.pixelAspect),
      sampleEntry: v210Entry({
        width: v.width,
        height: v.height,
        pixelAspect: v.pixelAspect,
        colour: open.info.video[0]!.colour,
        scan: v.scan,
      }),
      sizes: { constant: picture, count: frames },
      durations: { constant: rate.den },
      chunks: Array.from({ length: frames }, (_, n) => ({ offset: offset(n), samples: 1 })),
    },
  ]
  if (a) {
    tracks.push({
      kind: 'audio',
      timescale: a.sampleRate,
      sampleEntry: pcm24Entry(channels, a.sampleRate, a.layout),
      sizes: { constant: channels * 3, count: samplesBefore(frames) },
      durations: { constant: 1 },
      chunks: Array.from({ length: frames }, (_, n) => ({
        offset: offset(n) + picture,
        samples: samplesBefore(n + 1) - samplesBefore(n),
      })),
    })
  }
  tracks.push({
    kind: 'timecode',
    timescale: rate.num,
    sampleEntry: tmcdEntry(rate, output.start.dropFrame),
    sizes: { constant: 4, count: 1 },
    durations: { constant: frames * rate.den },
    chunks: [{ offset: 0, samples: 1 }],
  })
  const chapters = chapterTrack(item.chapters, frames, rate, 'mov', offset(frames))
  if (chapters) tracks.push(chapters.track)
  const head = movieHead({ brand: 'mov', tracks, dataSize: offset(frames) + (chapters?.bytes.length ?? 0), created: 0 })
  return { head, chapters, picture, offset, samplesBefore, first }
}

/** Makes one segment of an uncompressed master: pictures and their sound, written into place. */
export async function masterSegment(
  context: TaskContext,
  source: OpenItem,
  range: FrameRange,
  folder: string,
): Promise<void> {
  const { item, output } = source
  const plan = layout(source)
  const file = scratchFile(folder, item)
  await (await open(file, 'a')).close()
  const sink = await fileSink(file, true)
  try {
    if (range.in === item.region.in) {
      await sink.write(0, plan.head)
      await sink.write(plan.head.length, new Writer().u32(output.start.frames).zero(12).bytes())
      if (plan.chapters) await sink.write(plan.head.length + plan.offset(output.frames), plan.chapters.bytes)
    }
    const packed = new Uint8Array(plan.picture)
    for await (const { frame, picture } of source.pictures().read(range)) {
      const n = frame - item.region.in
      await sink.write(plan.head.length + plan.offset(n), encodeV210(source.render(picture, frame), packed))
      if (output.audio) {
        const from = plan.samplesBefore(n)
        const sound = await source.soundOf(plan.first + from, plan.samplesBefore(n + 1) - from)
        await sink.write(plan.head.length + plan.offset(n) + plan.picture, encodePcm(sound, 24, false))
      }
      await context.progress(frame - range.in + 1)
    }
    await sink.finish()
  } catch (e) {
    await sink.close().catch(() => undefined)
    throw e
  }
}
