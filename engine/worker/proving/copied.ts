import { readExactly } from '../../../core/bytes'
import { canDecodePictures } from '../../../core/codec/pictures'
import { soundCodec } from '../../../core/codec/registry'
import { sameNative, type AudioTrack, type Media } from '../../../core/media/media'
import { fail } from '../../../core/problem'
import { recipeKind } from '../../../core/recipe/registry'
import type { Frames, Samples } from '../../../core/time/rate'
import type { DeliverableStep } from '../context'
import { placeOfFrame } from '../making/coded'
import { copiedFilms, copiedSamples } from '../making/copied'

/** Whether a file's pictures are copied that cannot be decoded here. */
export const isCopiedBlindly = ({ item: { output, recipe }, codecs }: DeliverableStep): boolean =>
  output.video !== null && recipeKind(recipe).copies && !canDecodePictures(output.video.codec, codecs)

const again = 'Run it again; if it happens again, report it with the run sheet.'

const bytesOf = (media: Media, frame: Frames) => {
  const track = media.video[0]!
  const { offset, size } = track.sample(track.sampleOfFrame(frame))
  return readExactly(media.source, offset, size)
}

/** Holds all that a file has copied against its source as it is coded, and as it is described. */
export async function checkCopied(step: DeliverableStep, written: Media): Promise<void> {
  if (written.video.length > 0) await checkPictures(step, written)
  await checkSound(step, written)
}

async function checkPictures(step: DeliverableStep, written: Media): Promise<void> {
  let n = 0
  for (const { media, range } of copiedFilms(step)) {
    const [own, there] = [media.video[0]!.native, written.video[0]!.native]
    // where a container has no description of its own, the file's is made of what is known
    if ((own ?? there) && !sameNative(own, there))
      fail(
        'prove.copied',
        'The pictures of the file are described otherwise than its source’s.',
        placeOfFrame(step, n),
        again,
      )
    for (let frame = range.in; frame < range.out; frame++, n++) {
      const [a, b] = await Promise.all([bytesOf(media, frame), bytesOf(written, n)])
      if (Buffer.compare(a, b) !== 0)
        fail(
          'prove.copied',
          'A picture of the file is not, byte by byte, the one of its source.',
          placeOfFrame(step, n),
          again,
        )
      step.progress(0)
    }
  }
}

/** A track of sound, and where it is read. */
interface OfFile {
  readonly media: Media
  readonly track: AudioTrack
}

async function checkSound(step: DeliverableStep, written: Media): Promise<void> {
  const films = copiedFilms(step)
  for (const [k, track] of written.audio.entries()) {
    let at: Samples = 0
    for (const { media, from, count } of copiedSamples(step, films, track.info.sampleRate)) {
      const own = { media, track: media.audio[k]! }
      const there = { media: written, track }
      const same = track.pcm
        ? await sameSamples(step, own, from, there, at, count)
        : await samePackets(own, from, there, count)
      if (!same)
        fail(
          'prove.copied',
          `The sound of the file is not its source’s as it is coded, in track ${k + 1}.`,
          step.item.target.path,
          again,
        )
      at += count
    }
  }
}

/** Whether samples are the same as they are counted in the files, whenever they are heard. */
async function sameSamples(
  step: DeliverableStep,
  own: OfFile,
  from: Samples,
  there: OfFile,
  at: Samples,
  count: Samples,
): Promise<boolean> {
  const [a, b] = [own, there].map((f) => soundCodec(f.track.info.codec)!.decode.open(f.media, f.track, step.codecs))
  const second = there.track.info.sampleRate
  for (let done = 0; done < count; done += second) {
    const n = Math.min(second, count - done)
    const [x, y] = await Promise.all([a!(from + done, n), b!(at + done, n)])
    if (x.length !== y.length || x.some((c, i) => !sameBytes(c, y[i]!))) return false
    step.progress(0)
  }
  return true
}

/** As they stand in memory: of floats, too, what is no number is the same as itself. */
const sameBytes = (a: Float32Array, b: Float32Array) =>
  Buffer.compare(
    Buffer.from(a.buffer, a.byteOffset, a.byteLength),
    Buffer.from(b.buffer, b.byteOffset, b.byteLength),
  ) === 0

/**
 * Whether every packet of a file is that of its source at the same distance from what is heard first of both, and none
 * is missing of those that `count` samples are in.
 */
async function samePackets(own: OfFile, from: Samples, there: OfFile, count: Samples): Promise<boolean> {
  const { samples } = own.track.info
  const first = Math.min(from, samples)
  const begin = first + own.track.start - there.track.start
  // in the file, as packets count
  let heard = there.track.start
  for (let i = 0, k = 0; i < there.track.packetCount; i++) {
    const p = there.track.packet(i)
    while (k + 1 < own.track.packetCount && own.track.packet(k).pts < p.pts + begin) k++
    const q = own.track.packet(k)
    if (q.pts !== p.pts + begin || q.size !== p.size || p.pts > heard) return false
    heard = Math.max(heard, p.pts + p.duration)
    const [x, y] = await Promise.all([
      readExactly(own.media.source, q.offset, q.size),
      readExactly(there.media.source, p.offset, p.size),
    ])
    if (Buffer.compare(x, y) !== 0) return false
  }
  const { pts, duration } = own.track.packet(own.track.packetCount - 1)
  const end = Math.min(from + count, samples, pts + duration - own.track.start)
  return heard - there.track.start >= end - first
}
