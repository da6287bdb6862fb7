import { contentMeter } from '../../core/measure/content'
import { trimAssembly } from '../../core/timeline/assemble'
import type { PictureFacts, SoundFacts } from '../../core/spec/reading'
import { mulDivRound, sampleAtFrame } from '../../core/time/samples'
import { nominalRate, type Rate } from '../../core/time/rate'
import { previewWidth, previewWriter } from '../previews'
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

/** One decode of all pictures: a small preview of every frame; black, still and flashing stretches. */
export function analysePictures(context: TaskContext, place: SourcePlace): Promise<PictureFacts> {
  return withSource(context, place, async (source) => {
    const { rate, frames } = source.info.video[0]!
    const meter = contentMeter({ rate, shortestFreeze: nominalRate(rate) })
    const previews = await previewWriter(context.folders.cache, place.stamp.content)
    try {
      // pictures are compressed on other threads; a few may be under way at once
      const pending: Promise<void>[] = []
      for await (const { frame, picture } of source.pictures().read({ in: 0, out: frames })) {
        meter.feed(picture)
        const jpeg = jpegOf(picture, previewWidth)
        pending.push(jpeg.then(j => previews.add(frame, j)))
        if (pending.length >= 4) await pending.shift()
        await context.progress(frame + 1)
      }
      await Promise.all(pending)
    }
    finally {
      await previews.close()
    }
    return meter.result()
  })
}

/** Sound of the whole file, for the ribbon: short-term loudness of each tenth of a second (null for silence), and its facts. */
export interface SoundAnalysis {
  readonly ribbon: readonly (number | null)[]
  readonly facts: SoundFacts
}

export function analyseSound(context: TaskContext, place: SourcePlace, frames: number): Promise<SoundAnalysis | null> {
  return withSource(context, place, async ({ sound }) => {
    if (!sound) return null
    // the ribbon is the programme's loudness: its first two channels, or all six of 5.1
    const heard = sound.channels === 6 ? 6 : Math.min(2, sound.channels)
    const meters = soundMeters(heard, sound.sampleRate)
    for (let at = 0; at < sound.samples; at += sound.sampleRate) {
      meters.feed((await sound.read(at, Math.min(sound.sampleRate, sound.samples - at))).slice(0, heard))
      await context.progress(mulDivRound(frames, at, Math.max(1, sound.samples)))
    }
    return { ribbon: [...meters.ribbon()].map(v => (Number.isFinite(v) ? Math.round(v * 10) / 10 : null)), facts: meters.result() }
  })
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
