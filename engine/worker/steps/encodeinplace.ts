import path from 'node:path'
import { encodePcm } from '../../../core/codec/pcm/pcm'
import { pictureCodec } from '../../../core/codec/registry'
import type { TrackPlan } from '../../../core/container/container'
import { containerOf } from '../../../core/container/registry'
import { sampleAtFrame } from '../../../core/time/samples'
import type { DeliverableStep } from '../context'
import { audioEssence, planOf, videoEssence } from '../essence'
import { sharedFile } from '../sharedfile'

/** Bytes of a PCM sample in such files. */
const pcmBytes = 3

/**
 * Where everything of a file stands whose pictures are all of one size: it is known before a frame is made, so that
 * segments write straight into their place. Each frame is followed by its own sound.
 */
function layout(step: DeliverableStep) {
  const { item } = step
  const { output, region, timeline } = item
  const v = output.video!
  const a = output.audio
  const { rate } = timeline
  const frames = output.frames
  const picture = pictureCodec(v.codec)!.encode!.frameBytes!(v.width, v.height)
  const channels = a?.channels ?? 0
  const first = sampleAtFrame(region.in, rate, a?.sampleRate ?? 48000)
  const samplesBefore = (n: number) => sampleAtFrame(region.in + n, rate, a?.sampleRate ?? 48000) - first
  const offset = (n: number) => n * picture + samplesBefore(n) * channels * pcmBytes
  const tracks: TrackPlan[] = [
    {
      essence: videoEssence(step, null),
      timescale: rate.num,
      sizes: { constant: picture, count: frames },
      durations: { constant: rate.den },
      chunks: Array.from({ length: frames }, (_, n) => ({ offset: offset(n), samples: 1 })),
    },
  ]
  if (a)
    tracks.push({
      essence: audioEssence(step, null),
      timescale: a.sampleRate,
      sizes: { constant: channels * pcmBytes, count: samplesBefore(frames) },
      durations: { constant: 1 },
      chunks: Array.from({ length: frames }, (_, n) => ({
        offset: offset(n) + picture,
        samples: samplesBefore(n + 1) - samplesBefore(n),
      })),
    })
  const plan = { ...planOf(step), tracks, dataSize: offset(frames) }
  const { head, tail } = containerOf(output.container).layout!(output.container, plan)
  return {
    head,
    tail: { at: head.length + plan.dataSize, bytes: tail },
    pictureAt: (n: number) => head.length + offset(n),
    soundAt: (n: number) => head.length + offset(n) + picture,
    samplesBefore,
    first,
  }
}

/** Makes one segment of a file of constant picture size: pictures and their sound, written into place. */
export async function encodeInPlace(step: DeliverableStep): Promise<{ file: string }> {
  const { item, source, range, folder, claim } = step
  const plan = layout(step)
  const v = item.output.video!
  const name = 'inplace'
  const settings = { width: v.width, height: v.height, rate: item.timeline.rate, bitrate: 0 }
  const encoder = pictureCodec(v.codec)!.encode!.open(settings, step.codecs)
  const sink = await sharedFile(path.join(folder, name), claim.takenOver)
  try {
    if (range.in === item.region.in) {
      await sink.write(0, plan.head)
      await sink.write(plan.tail.at, plan.tail.bytes)
    }
    // a picture is written while the next one is made
    let written: Promise<unknown> = Promise.resolve()
    for await (const { frame, picture } of source.pictures().read(range)) {
      const n = frame - item.region.in
      await encoder.feed(source.render(picture, frame))
      await written
      for (const unit of encoder.take()) written = sink.write(plan.pictureAt(n), unit.bytes)
      // a failure is met with the next picture or at the end
      written.catch(() => undefined)
      if (item.output.audio) {
        const from = plan.samplesBefore(n)
        const sound = await source.soundOf(plan.first + from, plan.samplesBefore(n + 1) - from)
        await sink.write(plan.soundAt(n), encodePcm(sound, 24, false))
      }
      step.progress(frame - range.in + 1)
    }
    await written
    await sink.finish()
  } catch (e) {
    await sink.close().catch(() => undefined)
    throw e
  } finally {
    encoder.close()
  }
  return { file: name }
}
