import { openPictures } from '../../core/codec/pictures'
import { openSound } from '../../core/codec/sound'
import { contentMeter } from '../../core/measure/content'
import { openMedia } from '../../core/media/open'
import type { Stamp } from '../../core/plan/sheet'
import type { PictureFacts, SoundFacts } from '../../core/spec/reading'
import { mulDivRound, sampleAtFrame } from '../../core/time/samples'
import { nominalRate, type Rate } from '../../core/time/rate'
import { openFile } from '../disk'
import { previewWidth, previewWriter } from '../previews'
import { checkStamp } from '../stamp'
import type { TaskContext } from './context'
import { jpegOf } from './stills'
import { soundMeters } from './sound'

export interface MediaPlace { readonly root: string, readonly path: string, readonly stamp: Stamp }

async function withMedia<T>(context: TaskContext, place: MediaPlace, use: (media: Awaited<ReturnType<typeof openMedia>>) => Promise<T>): Promise<T> {
  const file = context.roots.resolve(place.root, place.path)
  await checkStamp(file, place.stamp, place.path)
  const source = await openFile(file, place.path)
  try {
    return await use(await openMedia(source))
  }
  finally {
    await source.close()
  }
}

/** One decode of all pictures: a small preview of every frame; black, still and flashing stretches. */
export function analysePictures(context: TaskContext, place: MediaPlace): Promise<PictureFacts> {
  return withMedia(context, place, async (media) => {
    const { rate, frames } = media.info.video[0]!
    const meter = contentMeter({ rate, shortestFreeze: nominalRate(rate) })
    const previews = await previewWriter(context.folders.cache, place.stamp.content)
    try {
      // pictures are compressed on other threads; a few may be under way at once
      const pending: Promise<void>[] = []
      for await (const { frame, picture } of openPictures(media, context.codecs).read({ in: 0, out: frames })) {
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

export function analyseSound(context: TaskContext, place: MediaPlace, frames: number): Promise<SoundAnalysis | null> {
  return withMedia(context, place, async (media) => {
    const sound = openSound(media, context.codecs)
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
export function measureRange(context: TaskContext, place: MediaPlace, range: { in: number, out: number }, rate: Rate, route: readonly number[]): Promise<SoundFacts | null> {
  return withMedia(context, place, async (media) => {
    const sound = openSound(media, context.codecs)
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
