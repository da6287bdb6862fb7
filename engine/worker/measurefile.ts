import path from 'node:path'
import type { ByteSource } from '../../core/bytes'
import { carriedBits } from '../../core/analysis/carriedbits'
import { contentMeter } from '../../core/analysis/content'
import { decibels } from '../../core/analysis/meter'
import { damageFinder, pictureMeters, type PictureFacts } from '../../core/analysis/pictures'
import { tracer, type Trace } from '../../core/analysis/trace'
import type { PictureSource, SoundSource } from '../../core/codec/codec'
import { readThrough } from '../../core/codec/damage'
import { canDecodePictures } from '../../core/codec/pictures'
import { unitFacts } from '../../core/codec/unitfacts'
import { canDecodeSound, canHear } from '../../core/codec/sound'
import { containers } from '../../core/container/registry'
import { carriedIn, damagedPictures, damageOf, describedMedia, unitsOf } from '../../core/measure/described'
import { foundLineUp } from '../../core/measure/time/lineup'
import type { Evidence, LineUp, Readings } from '../../core/measure/measure'
import { measureOf, readMeasures } from '../../core/measure/registry'
import { lumaWeightsOf } from '../../core/media/colour'
import { mediaTimeBase, type VideoInfo } from '../../core/media/media'
import type { Problem } from '../../core/problem'
import { headReach, measuredHead, soundHead, type FoundHead } from '../../core/analysis/head'
import type { FrameRange } from '../../core/time/range'
import { saidLayout } from '../../core/sound/layout'
import { makeRate, nominalRate, type Frames, type Rate } from '../../core/time/rate'
import { sampleAtFrame } from '../../core/time/samples'
import { openMediaFile } from '../storage/mediafile'
import { machineCodecs } from './codecs'
import { ancillaryIn } from './proving/lines'
import { timecodesIn } from './proving/timecodes'
import { analyseWholeSound } from './steps/analysesound'

/** Every measure of sound from a frame on; `told` gets what is read of it. */
function measureSound(
  sound: SoundSource,
  rate: Rate,
  first: Frames,
  most: Frames | null = null,
  told: (block: readonly Float32Array[]) => void = () => undefined,
) {
  const skipped = sampleAtFrame(first, rate, sound.sampleRate)
  const rest: SoundSource = {
    ...{ ...sound, samples: sound.samples - skipped },
    async read(from, count, wanted) {
      const block = await sound.read(from + skipped, count, wanted)
      told(block)
      return block
    },
  }
  // a file ends with its last sample: silence up to the next frame would be a break that it has not
  const end = most === null ? rest.samples : Math.min(rest.samples, sampleAtFrame(most, rate, rest.sampleRate))
  return analyseWholeSound(rest, rate, end, () => undefined)
}

/** Line-up at the head of a file, by the traces of its first pictures and by its sound. */
async function headOf(v: VideoInfo, traces: readonly Trace[], sound: SoundSource | null): Promise<FoundHead | null> {
  const content = contentMeter({ ...v, shortestFreeze: nominalRate(v.rate) })
  for (const t of traces) content.feed(t)
  const { black, freeze } = content.result()
  const heard = sound && (await measureSound(sound, v.rate, 0, traces.length))
  return measuredHead({
    ...{ rate: v.rate, length: traces.length, black, freeze },
    ...{ silence: heard?.faults.silence ?? [], momentary: heard?.momentary ?? null },
  })
}

/** Line-up at the head of a file of sound alone. */
async function headOfSound(sound: SoundSource, rate: Rate): Promise<FoundHead | null> {
  const length = headReach * nominalRate(rate)
  const { faults, momentary } = await measureSound(sound, rate, 0, length)
  const end = Math.floor((sound.samples * rate.num) / (sound.sampleRate * rate.den))
  return soundHead({ rate, length: Math.min(length, end), silence: faults.silence, momentary })
}

/** Figures of sound, said to be of what follows a tone. */
const behindTone = (readings: Readings): Readings =>
  Object.fromEntries(
    Object.entries(readings).map(([name, r]) => [
      name,
      measureOf(name).moves ? { ...r, text: `${r.text}, behind its tone` } : r,
    ]),
  )

/** Every measure of a file's pictures, of the programme alone where line-up stands in front of it. */
async function measurePictures(
  v: VideoInfo,
  pictures: PictureSource,
  sound: SoundSource | null,
  progress: Told,
): Promise<{ readonly facts: PictureFacts; readonly head: FoundHead | null; damaged: readonly FrameRange[] }> {
  const meters = pictureMeters(v)
  const finder = damageFinder()
  const { take } = tracer(lumaWeightsOf(v))
  const range = { in: 0, out: v.frames }
  const near = Math.min(v.frames, headReach * nominalRate(v.rate))
  const kept: Trace[] = []
  let head: FoundHead | null = null
  for await (const { frame, picture, damaged } of readThrough(pictures, range, v)) {
    const trace = take(picture, damaged !== null)
    finder.feed(trace)
    if (frame < near) kept.push(trace)
    else meters.feed(trace)
    if (frame === near - 1) {
      head = await headOf(v, kept, sound)
      for (const t of kept.slice(head?.programme ?? 0)) meters.feed(t)
    }
    progress(frame, v.frames)
  }
  return { facts: meters.result(), head, damaged: finder.result() }
}

/** The peak of a tone in each channel, a second away from both of its ends; dBFS, null for silence. */
async function tonesIn(sound: SoundSource, { lineUp, by }: FoundHead, rate: Rate): Promise<LineUp['tones']> {
  if (!by.includes('tone')) return []
  // silence in the place of a channel that is not read is no missing tone
  if (sound.closed) return null
  const second = nominalRate(rate)
  const from = sampleAtFrame(lineUp.in + second, rate, sound.sampleRate)
  const count = Math.min(sampleAtFrame(lineUp.out - second, rate, sound.sampleRate) - from, 10 * sound.sampleRate)
  if (count <= 0) return []
  const heard = await sound.read(from, count)
  return heard.map((channel) => {
    const peak = channel.reduce((most, v) => Math.max(most, Math.abs(v)), 0)
    return peak > 0 ? decibels(peak) : null
  })
}

/** What is not whole in a file where opening it does not look. */
async function structureDamage(source: ByteSource, container: string): Promise<Problem[]> {
  const known = containers.find((c) => c.brands.some((b) => b.name === container))
  const fault = await known?.structureFault?.(source)
  return fault
    ? [{ code: 'file.structure', damage: true, message: `The file is damaged: ${fault}.`, where: source.name }]
    : []
}

/** Told of frames as they are seen. */
type Told = (frame: Frames, of: Frames) => void

/**
 * Everything a specification can ask of a finished file, measured from the file itself; `name` stands for it in
 * problems.
 */
export async function measureFile(file: string, name = file, progress: Told = () => undefined): Promise<Readings> {
  const opened = await openMediaFile(file, name)
  try {
    const { info, media } = opened
    const codecs = machineCodecs()
    const base = mediaTimeBase(info)
    const from = { rate: makeRate(25), dropFrame: false, ...base, start: info.timecode?.startFrames ?? 0 }
    // sound that is not heard as a whole is not measured; for what stands at the head some of it will do
    const some = !media || canHear(info.audio, codecs) ? opened.sound(codecs) : null
    const sound = !media || canDecodeSound(info.audio, codecs) ? some : null
    const v = info.video[0]
    const shown = v && base && (!media || canDecodePictures(v.codec, codecs)) ? opened.pictures(codecs) : null
    const seen = shown && (await measurePictures(v!, shown, some, progress))
    const alone = !v && sound ? await headOfSound(sound, from.rate) : null
    const programme = (seen?.head ?? alone)?.programme ?? 0
    const bits = carriedBits()
    const heard = sound && (await measureSound(sound, from.rate, programme, null, (block) => bits.feed(block)))
    const tones = seen?.head && some ? await tonesIn(some, seen.head, from.rate) : []
    // where nothing of its sound is heard, nobody knows that there is no line-up
    const told = seen !== null && (seen.head !== null || some !== null || info.audio.length === 0)
    const range = { in: programme, out: v?.frames ?? programme }
    const coded = media && v ? await unitFacts(media.source, media.video[0]!, range) : null
    const lines = await ancillaryIn(media?.data ?? [], range, v?.rate ?? from.rate)
    const evidence: Evidence = {
      described: describedMedia(info, v?.rateStated === false ? null : base),
      damage: [
        ...damageOf(info),
        ...(media ? await structureDamage(media.source, info.container) : []),
        ...damagedPictures(seen?.damaged, from),
        ...lines.damage,
      ],
      ...(info.audio.length ? { layout: saidLayout(info.audio) } : {}),
      lookedThrough: !v || seen !== null,
      name: { file: path.basename(file), bad: null },
      base: { ...from, start: from.start + programme },
      ...(told && v!.rateStated !== false ? { lineUp: foundLineUp(seen.head, v!.frames, from, tones) } : {}),
      ...(v ? { ancillary: lines.facts, coded, besides: info.data ?? [] } : {}),
      ...(media ? unitsOf(media) : {}),
      ...(media || v ? { file: from, timecodes: await timecodesIn(opened, from) } : {}),
      ...(info.metadata ? { metadata: info.metadata } : {}),
      ...(heard ? { sound: heard.facts, trouble: heard.faults, carried: carriedIn(media, bits.result()) } : {}),
      stated: { loudness: info.bext?.loudness ?? null },
      ...(seen ? { pictures: seen.facts, scan: v!.scan } : {}),
    }
    const readings = readMeasures(evidence, 'file')
    return alone ? behindTone(readings) : readings
  } finally {
    await opened.close()
  }
}
