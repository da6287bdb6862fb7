import { open, rm } from 'node:fs/promises'
import path from 'node:path'
import type { SoundSource } from '../../core/codec/sound'
import { soundFaults, type SoundFaults } from '../../core/measure/soundfaults'
import { packTrace, traceOf, traceSize, unpackTrace } from '../../core/measure/trace'
import { pictureMeters } from '../../core/measure/pictures'
import type { FrameRange } from '../../core/time/range'
import { trimAssembly } from '../../core/timeline/assemble'
import type { PictureFacts, SoundFacts } from '../../core/spec/reading'
import { frameAtSample, mulDivRound, sampleAtFrame } from '../../core/time/samples'
import { makeRate, type Rate } from '../../core/time/rate'
import { openInPlace, previewWidth, previewWriter, segmentLength } from '../previews'
import { openSource, type OpenSource, type SourcePlace } from '../source'
import type { TaskContext } from './context'
import { jpegOf } from './stills'
import { soundMeters } from './sound'

async function withSource<T>(context: TaskContext, place: SourcePlace, use: (source: OpenSource) => Promise<T>): Promise<T> {
  const source = await openSource(context.roots, context.codecs, place)
  try {
    return await use(source)
  }
  finally {
    await source.close()
  }
}

const traceFile = (context: TaskContext, place: SourcePlace) => path.join(context.folders.cache, `${place.stamp.content}.traces`)

/** One decode of a segment: a small picture of every frame, and its trace, from which the merge decides. */
export async function analyseSegment(context: TaskContext, place: SourcePlace, range: FrameRange): Promise<true> {
  const part = place.assembly ? { ...place, assembly: trimAssembly(place.assembly, range) } : place
  return withSource(context, part, async (source): Promise<true> => {
    const previews = await previewWriter(context.folders.cache, place.stamp.content, Math.floor(range.in / segmentLength))
    const traces = await openInPlace(traceFile(context, place))
    try {
      // pictures are compressed on other threads; a few may be under way at once
      const pending: Promise<void>[] = []
      for await (const { frame, picture } of source.pictures().read(range)) {
        await traces.write(packTrace(traceOf(picture)), 0, traceSize, frame * traceSize)
        const jpeg = jpegOf(picture, previewWidth)
        pending.push(jpeg.then(j => previews.add(frame, j)))
        if (pending.length >= 4) await pending.shift()
        await context.progress(frame + 1 - range.in)
      }
      await Promise.all(pending)
      return true
    }
    finally {
      await previews.close()
      await traces.close()
    }
  })
}

/** What the traces of all segments say: black, still and flashing stretches, cuts, levels, bars. Where a segment begins makes no difference. */
export async function mergeSegments(context: TaskContext, place: SourcePlace, range: FrameRange): Promise<PictureFacts> {
  const { video } = await withSource(context, place, s => Promise.resolve(s.info))
  const meters = pictureMeters(video[0]!)
  const file = traceFile(context, place)
  const traces = await open(file, 'r')
  try {
    const bytes = Buffer.alloc(traceSize * 64)
    for (let at = range.in; at < range.out; at += 64) {
      const { bytesRead } = await traces.read(bytes, 0, Math.min(64, range.out - at) * traceSize, at * traceSize)
      for (let i = 0; i + traceSize <= bytesRead; i += traceSize) meters.feed(unpackTrace(bytes.subarray(i, i + traceSize)))
      await context.progress(at)
    }
  }
  finally {
    await traces.close()
  }
  const facts = meters.result()
  await rm(file, { force: true })
  return facts
}

/** Sound of the whole file, for the ribbon: short-term loudness of each tenth of a second (null for silence), and its facts. */
export interface SoundAnalysis {
  readonly ribbon: readonly (number | null)[]
  /** Momentary loudness, the largest of each tenth of a second. */
  readonly momentary: readonly (number | null)[]
  readonly facts: SoundFacts
  /** Silence, clicks, dropouts and stretches out of phase, in frames of the timeline. */
  readonly faults: Readonly<Record<keyof SoundFaults, readonly FrameRange[]>>
}

export function analyseSound(context: TaskContext, place: SourcePlace, frames: number): Promise<SoundAnalysis | null> {
  return withSource(context, place, ({ sound, info }) => (sound ? listenThrough(sound, info.video[0]?.rate ?? makeRate(25), frames, n => context.progress(n)) : Promise.resolve(null)))
}

/** Every measure of a whole sound in one pass. `frames` is its length in frames at `rate`, in which faults are given. */
export async function listenThrough(sound: SoundSource, rate: Rate, frames: number, progress: (frames: number) => Promise<void>): Promise<SoundAnalysis> {
  // the ribbon is the programme's loudness: its first two channels, or all six of 5.1
  const heard = sound.channels === 6 ? 6 : Math.min(2, sound.channels)
  const meters = soundMeters(heard, sound.sampleRate)
  const faults = soundFaults(sound.channels, sound.sampleRate)
  for (let at = 0; at < sound.samples; at += sound.sampleRate) {
    const block = await sound.read(at, Math.min(sound.sampleRate, sound.samples - at))
    meters.feed(block.slice(0, heard))
    faults.feed(block)
    await progress(mulDivRound(frames, at, Math.max(1, sound.samples)))
  }
  const inFrames = (list: readonly { in: number, out: number }[]) => list.map(r => ({ in: frameAtSample(r.in, rate, sound.sampleRate), out: frameAtSample(Math.max(r.in, r.out - 1), rate, sound.sampleRate) + 1 }))
  const f = faults.result()
  const finite = (list: Iterable<number>) => [...list].map(v => (Number.isFinite(v) ? Math.round(v * 10) / 10 : null))
  return { ribbon: finite(meters.ribbon()), momentary: finite(meters.momentary()), facts: meters.result(), faults: { silence: inFrames(f.silence), clicks: inFrames(f.clicks), dropouts: inFrames(f.dropouts), phase: inFrames(f.phase) } }
}

/** Sound of a range through a route (0-based source channels, −1 silence), before gain. */
export function measureRange(context: TaskContext, place: SourcePlace, range: { in: number, out: number }, rate: Rate, route: readonly number[]): Promise<SoundFacts | null> {
  const part = place.assembly ? { ...place, assembly: trimAssembly(place.assembly, range) } : place
  return withSource(context, part, async ({ sound }) => {
    if (!sound || route.length === 0) return null
    const meters = soundMeters(route.length, sound.sampleRate)
    const first = sampleAtFrame(range.in, rate, sound.sampleRate)
    const last = sampleAtFrame(range.out, rate, sound.sampleRate)
    for (let at = first; at < last; at += sound.sampleRate) {
      const n = Math.min(sound.sampleRate, last - at)
      const block = await sound.read(at, n)
      meters.feed(route.map(c => block[c] ?? new Float32Array(n)))
      await context.progress(0)
    }
    return meters.result()
  })
}
