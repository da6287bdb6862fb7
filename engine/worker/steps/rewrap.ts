import path from 'node:path'
import { readExactly, type ByteSource } from '../../../core/bytes'
import { decodeStart } from '../../../core/codec/web/pictures'
import type { CopiedEssence, TrackPlan } from '../../../core/container/container'
import { containerOf } from '../../../core/container/registry'
import { sameNative, type AudioTrack, type NativeDescription, type VideoTrack } from '../../../core/media/media'
import { fail } from '../../../core/problem'
import type { FrameRange } from '../../../core/time/range'
import { mulDivRound, sampleAtFrame } from '../../../core/time/samples'
import { fileSink } from '../../storage/disk'
import { claimedFile, type DeliverableStep } from '../context'
import { copiedFilms, copiedSamples, type CopiedFilm } from '../making/copied'
import { planOf } from '../making/essence'
import { rewrapUnits } from './rewrapunits'

/** A stretch of bytes copied untouched. */
interface Copy {
  readonly source: ByteSource
  readonly from: number
  readonly to: number
  readonly bytes: number
}

interface Stream {
  /** Seconds of media time (from the region's start) at which piece `i` begins, and its copies. */
  readonly count: number
  readonly time: (i: number) => number
  readonly place: (i: number, to: number) => { bytes: number; copies: Copy[] }
  readonly track: (chunks: readonly { offset: number; samples: number }[]) => TrackPlan
  /** Samples in piece `i`, as the sample table counts them. */
  readonly samples: (i: number) => number
}

/** The description of a track as its own container has it. */
function copied(kind: CopiedEssence['kind'], track: VideoTrack | AudioTrack): CopiedEssence {
  const native = track.native ?? fail('rewrap.native', 'This essence cannot be copied into another file.')
  if (kind === 'audio' || !('width' in track.info)) return { kind, native }
  const { width, height, pixelAspect } = track.info
  return { kind, native, width, height, pixelAspect }
}

function pictureStream(source: ByteSource, track: VideoTrack, range: FrameRange): Stream {
  const first = track.info.intra ? track.sampleOfFrame(range.in) : decodeStart(track, range.in)
  let last = first
  for (let n = range.in; n < range.out; n++) last = Math.max(last, track.sampleOfFrame(n))
  const count = last - first + 1
  const s = (i: number) => track.sample(first + i)
  const zero = s(0).dts
  const sizes = Uint32Array.from({ length: count }, (_, i) => s(i).size)
  const cts = Int32Array.from({ length: count }, (_, i) => s(i).pts - s(i).dts)
  const frameTicks = mulDivRound(track.info.rate.den, track.timescale, track.info.rate.num)
  const durations = Uint32Array.from({ length: count }, (_, i) =>
    first + i + 1 < track.sampleCount ? track.sample(first + i + 1).dts - s(i).dts : frameTicks,
  )
  const shown = track.sample(track.sampleOfFrame(range.in)).pts - zero
  return {
    count,
    samples: () => 1,
    time: (i) => (s(i).dts - zero) / track.timescale,
    place: (i, to) => ({ bytes: s(i).size, copies: [{ source, from: s(i).offset, to, bytes: s(i).size }] }),
    track: (chunks) => ({
      essence: copied('video', track),
      timescale: track.timescale,
      sizes,
      durations,
      ...(cts.some((v) => v !== 0) ? { cts } : {}),
      ...(track.info.intra ? {} : { sync: Uint8Array.from({ length: count }, (_, i) => (s(i).sync ? 1 : 0)) }),
      chunks,
      edit: {
        mediaTime: shown,
        duration: mulDivRound((range.out - range.in) * track.info.rate.den, track.timescale, track.info.rate.num),
      },
    }),
  }
}

function soundStream(source: ByteSource, track: AudioTrack, from: number, to: number): Stream {
  const rate = track.info.sampleRate
  const end = Math.min(to, track.info.samples) + track.start
  const begin = Math.min(from, track.info.samples) + track.start
  if (track.pcm) {
    const frame = track.pcm.bytesPerSample * track.pcm.channels
    const step = Math.round(rate / 4)
    const count = Math.max(1, Math.ceil((end - begin) / step))
    const length = (i: number) => Math.max(0, Math.min(step, end - begin - i * step))
    return {
      count,
      samples: length,
      time: (i) => (i * step) / rate,
      place: (i, target) => {
        const copies: Copy[] = []
        let at = begin + i * step
        let left = length(i)
        let to = target
        while (left > 0) {
          const run = track.run(at)
          const n = Math.min(run.samples, left)
          if (n <= 0) break
          copies.push({ source, from: run.offset, to, bytes: n * frame })
          at += n
          left -= n
          to += n * frame
        }
        return { bytes: to - target, copies }
      },
      track: (chunks) => ({
        essence: copied('audio', track),
        timescale: rate,
        sizes: { constant: frame, count: end - begin },
        durations: { constant: 1 },
        chunks,
      }),
    }
  }
  let first = 0
  while (first + 1 < track.packetCount && track.packet(first + 1).pts <= begin) first++
  // one packet of run-in, so that the overlapped transform starts right
  first = Math.max(0, first - 1)
  let last = first
  while (last + 1 < track.packetCount && track.packet(last + 1).pts < end) last++
  const p = (i: number) => track.packet(first + i)
  const zero = p(0).pts
  const count = last - first + 1
  return {
    count,
    samples: () => 1,
    time: (i) => (p(i).pts - begin) / rate,
    place: (i, to) => ({ bytes: p(i).size, copies: [{ source, from: p(i).offset, to, bytes: p(i).size }] }),
    track: (chunks) => ({
      essence: copied('audio', track),
      timescale: rate,
      sizes: Uint32Array.from({ length: count }, (_, i) => p(i).size),
      durations: Uint32Array.from({ length: count }, (_, i) => p(i).duration),
      chunks,
      edit: { mediaTime: begin - zero, duration: end - begin },
    }),
  }
}

/**
 * Streams of several parts one after the other: the same track of each. A single part is taken as it is, whatever its
 * essence.
 */
function joinedStreams(step: DeliverableStep, parts: readonly CopiedFilm[]): Stream[] {
  const { rate } = step.item.timeline
  const [{ media, range, at: begins }] = parts as [CopiedFilm]
  const soundsOf = (track: AudioTrack, k: number) =>
    copiedSamples(step, parts, track.info.sampleRate).map((p) =>
      soundStream(p.media.source, p.media.audio[k]!, p.from, p.from + p.count),
    )
  if (parts.length === 1)
    return [
      pictureStream(media.source, media.video[0]!, range),
      ...media.audio.map((track, k) => soundsOf(track, k)[0]!),
    ]
  const same = (of: (m: CopiedFilm['media']) => NativeDescription | null) =>
    parts.every((p) => sameNative(of(p.media), of(media)))
  if (!same((m) => m.video[0]!.native) || media.audio.some((_, k) => !same((m) => m.audio[k]!.native)))
    fail(
      'rewrap.entries',
      'The sources describe their essence in different ways; they cannot stand in one track.',
      media.source.name,
      'Use a master.',
    )
  const last = parts.at(-1)!
  const ends = last.at + last.range.out - last.range.in
  const pictures = parts.map((p) => pictureStream(p.media.source, p.media.video[0]!, p.range))
  const seconds = (n: number) => ((parts[n]!.at - begins) * rate.den) / rate.num
  const sizes = pictures.map((s) => s.track([]).sizes as Uint32Array)
  const head = pictures[0]!.track([])
  const { edit: _, cts: __, ...plain } = head
  const streams = [
    joined(pictures, seconds, (chunks) => ({
      ...plain,
      timescale: rate.num,
      sizes: Uint32Array.from(sizes.flatMap((s) => [...s])),
      durations: { constant: rate.den },
      chunks,
    })),
  ]
  media.audio.forEach((track, k) => {
    const place = (frame: number) => sampleAtFrame(frame, rate, track.info.sampleRate)
    const sounds = soundsOf(track, k)
    const sound = sounds[0]!.track([])
    const constant = (sound.sizes as { constant: number }).constant
    streams.push(
      joined(
        sounds,
        (n) => (place(parts[n]!.at) - place(begins)) / track.info.sampleRate,
        (chunks) => ({ ...sound, sizes: { constant, count: place(ends) - place(begins) }, chunks }),
      ),
    )
  })
  return streams
}

function joined(parts: readonly Stream[], start: (part: number) => number, track: Stream['track']): Stream {
  const first: number[] = [0]
  for (const p of parts) first.push(first.at(-1)! + p.count)
  const partOf = (i: number) => {
    let n = 0
    while (i >= first[n + 1]!) n++
    return n
  }
  return {
    count: first.at(-1)!,
    track,
    time: (i) => {
      const n = partOf(i)
      return start(n) + parts[n]!.time(i - first[n]!)
    },
    samples: (i) => parts[partOf(i)]!.samples(i - first[partOf(i)]!),
    place: (i, to) => parts[partOf(i)]!.place(i - first[partOf(i)]!, to),
  }
}

/**
 * Copies a range's essence untouched into a new file. Intra pictures begin at the frame itself; long-GOP
 * pictures begin at the sync sample before it, and an edit list presents exactly the frames asked for.
 */
export async function rewrap(step: DeliverableStep): Promise<{ file: string }> {
  const { item } = step
  const { output } = item
  const { layout } = containerOf(output.container)
  if (!layout) return rewrapUnits(step)
  const parts = copiedFilms(step)
  const streams = joinedStreams(step, parts)
  const chunks: { offset: number; samples: number }[][] = streams.map(() => [])
  const copies: Copy[] = []
  const next = streams.map(() => 0)
  let at = 0
  for (let half = 1; streams.some((s, k) => next[k]! < s.count); half++) {
    streams.forEach((s, k) => {
      const offset = at
      let samples = 0
      while (next[k]! < s.count && s.time(next[k]!) < half / 2) {
        const placed = s.place(next[k]!, at)
        copies.push(...placed.copies)
        samples += s.samples(next[k]!)
        at += placed.bytes
        next[k]!++
      }
      if (samples > 0) chunks[k]!.push({ offset, samples })
    })
  }
  const tracks = streams.map((s, k) => s.track(chunks[k]!))
  const { head, tail } = layout(output.container, {
    ...planOf(step),
    tracks,
    dataSize: at,
  })
  const file = claimedFile(step, 'file')
  const sink = await fileSink(file)
  try {
    await sink.write(0, head)
    let written = 0
    for (const c of merged(copies)) {
      for (let done = 0; done < c.bytes;) {
        const n = Math.min(8 << 20, c.bytes - done)
        await sink.write(head.length + c.to + done, await readExactly(c.source, c.from + done, n))
        done += n
        written += n
        step.progress(mulDivRound(output.frames, written, Math.max(1, at)))
      }
    }
    await sink.write(head.length + at, tail)
    await sink.finish()
  } catch (e) {
    await sink.close().catch(() => undefined)
    throw e
  }
  return { file: path.basename(file) }
}

/** Joins copies that follow on from each other on both sides. */
function* merged(copies: readonly Copy[]): Generator<Copy> {
  let run = null as Copy | null
  for (const c of copies) {
    if (run && run.source === c.source && run.from + run.bytes === c.from && run.to + run.bytes === c.to)
      run = { ...run, bytes: run.bytes + c.bytes }
    else {
      if (run) yield run
      run = c
    }
  }
  if (run) yield run
}
