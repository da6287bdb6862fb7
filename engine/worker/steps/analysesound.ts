import { open, rename } from 'node:fs/promises'
import type { SoundSource } from '../../../core/codec/codec'
import type { SoundAnalysis } from '../../../core/analysis/soundanalysis'
import { channelGains } from '../../../core/analysis/loudness'
import { decibels } from '../../../core/analysis/meter'
import { faultsWithin, soundFaults, type ChannelDamage, type SampleRange } from '../../../core/analysis/soundfaults'
import { soundStretches, troubleOf, type RegionSound } from '../../../core/analysis/soundstretches'
import { soundReader, soundTraceLayout, SoundTracer, type SoundShape } from '../../../core/analysis/soundtrace'
import { layoutOf } from '../../../core/sound/layout'
import type { FrameRange } from '../../../core/time/range'
import { countsSamples, makeRate, traceRate, type Frames, type Rate } from '../../../core/time/rate'
import { frameAtSample, sampleAtFrame } from '../../../core/time/samples'
import { readSoundTraces, soundTraceFile } from '../../storage/soundtraces'
import { factKeys } from '../../store/facts'
import { withSource } from './analysepictures'
import type { BackgroundStep } from '../background'

// The sound of a timeline, heard once: what is kept of every frame, and what it says of the whole and of regions.

const everyChannel = (shape: SoundShape) => Array.from({ length: shape.channels }, (_, c) => c)

const samplesOf = (shape: SoundShape, range: FrameRange): SampleRange => ({
  in: sampleAtFrame(range.in, shape.rate, shape.sampleRate),
  out: sampleAtFrame(range.out, shape.rate, shape.sampleRate),
})

/**
 * Feeds a stretch of sound, of which the first sample is that of frame `first`, to its tracer; gives the traces as they
 * are complete, and the damage. Progress is in frames of the trace.
 */
async function listen(
  sound: SoundSource,
  shape: SoundShape,
  first: Frames,
  samples: SampleRange,
  regions: boolean,
  each: (rows: Float32Array[]) => void | Promise<void>,
  progress: (frames: Frames) => void,
): Promise<readonly ChannelDamage[]> {
  const tracer = new SoundTracer(shape, first, regions)
  const damage = soundFaults(shape.channels, shape.sampleRate)
  for (let at = samples.in; at < samples.out; at += shape.sampleRate) {
    const block = await sound.read(at, Math.min(shape.sampleRate, samples.out - at))
    tracer.feed(block)
    damage.feed(block)
    await each(tracer.rows())
    progress(frameAtSample(at - samples.in, shape.rate, shape.sampleRate))
  }
  tracer.finish()
  await each(tracer.rows())
  return damage.result()
}

/**
 * Every measure of a whole sound in one pass over its `frames` frames, or samples where `rate` is the sample rate;
 * `keep` gets the trace of each.
 */
export async function analyseWholeSound(
  sound: SoundSource,
  rate: Rate,
  frames: Frames,
  progress: (frames: Frames) => void,
  keep: ((rows: Float32Array[]) => Promise<void>) | null = null,
): Promise<SoundAnalysis> {
  const counted: SoundShape = { channels: sound.channels, sampleRate: sound.sampleRate, rate }
  const shape = { ...counted, rate: traceRate(rate) }
  const samples = samplesOf(counted, { in: 0, out: frames })
  const reader = soundReader(shape, everyChannel(shape), channelGains(shape.channels, layoutOf(shape.channels)))
  const stretches = soundStretches(shape)
  const damage = await listen(
    sound,
    shape,
    0,
    samples,
    keep !== null,
    async (rows) => {
      for (const row of rows) {
        reader.feed(row)
        stretches.feed(row)
      }
      await keep?.(rows)
    },
    progress,
  )
  return {
    ribbon: reader.ribbon(),
    momentary: reader.momentary(),
    facts: reader.result(),
    faults: troubleOf(stretches.result(), faultsWithin(damage, samples), shape, 0, rate),
    shape,
    damage,
  }
}

/**
 * Every measure of a timeline's sound; the traces of its frames are kept one after the other as 32-bit floats,
 * little-endian. Of sound alone none are kept: its regions begin at any sample.
 */
export function analyseSound(step: BackgroundStep): Promise<SoundAnalysis | null> {
  const kept = soundTraceFile(step.cache, step.ref.fingerprint)
  return withSource(step, step.ref, null, async ({ sound, info }) => {
    if (!sound) return null
    const told = (n: Frames) => step.progress(n)
    if (!info.video[0]) {
      const counted = makeRate(sound.sampleRate)
      const length = frameAtSample(sound.samples, counted, sound.sampleRate)
      return analyseWholeSound(sound, counted, length, told)
    }
    const scratch = `${kept}.${step.claim.step}-${step.claim.fence}`
    const file = await open(scratch, 'w')
    try {
      const analysis = await analyseWholeSound(sound, info.video[0].rate, step.claim.frames, told, async (rows) => {
        if (rows.length) await file.write(Buffer.concat(rows.map((r) => Buffer.from(r.buffer))))
      })
      await step.hold()
      await rename(scratch, kept)
      return analysis
    } finally {
      await file.close()
    }
  })
}

/**
 * Sound of a region through a route (0-based source channels, −1 silence), before gain: read from what was kept when
 * the timeline was heard, else (no pass was made) from the region's own sound. Both give the same.
 */
export async function measureSound(step: BackgroundStep): Promise<RegionSound | null> {
  const { ref } = step
  const { range, rate, route } = step.payload as { range: FrameRange; rate: Rate; route: readonly number[] }
  if (route.length === 0) return null
  const gains = channelGains(route.length, layoutOf(route.length))
  const key = factKeys.sound(ref.fingerprint)
  const known = (await step.facts.read([key])).get(key) as SoundAnalysis | null | undefined
  const alone = countsSamples(rate)
  const kept = known && !alone ? await readSoundTraces(step.cache, ref.fingerprint, known.shape, range) : null
  const through = (shape: SoundShape) => {
    const [reader, stretches] = [soundReader(shape, route, gains), soundStretches(shape)]
    const { peaks: first } = soundTraceLayout(shape)
    const peaks = everyChannel(shape).map(() => 0)
    return {
      feed(rows: readonly Float32Array[]) {
        for (const row of rows) {
          reader.feed(row)
          stretches.feed(row)
          peaks.forEach((p, c) => (peaks[c] = Math.max(p, row[first + c]!)))
        }
      },
      result: (damage: readonly ChannelDamage[], part: SampleRange): RegionSound => ({
        ...reader.result(),
        faults: troubleOf(stretches.result(), faultsWithin(damage, part), shape, range.in, rate),
        sourcePeaks: peaks.map((p) => (p > 0 ? decibels(p) : null)),
      }),
    }
  }
  if (known && kept) {
    const { shape } = known
    const meters = through(shape)
    meters.feed(kept)
    return meters.result(known.damage, samplesOf(shape, range))
  }
  return withSource(step, ref, range, async ({ sound }) => {
    if (!sound) return null
    const counted: SoundShape = { channels: sound.channels, sampleRate: sound.sampleRate, rate }
    const shape = { ...counted, rate: traceRate(rate) }
    const meters = through(shape)
    const samples = samplesOf(counted, range)
    const damage = await listen(
      sound,
      shape,
      alone ? 0 : range.in,
      samples,
      false,
      (rows) => meters.feed(rows),
      () => step.progress(0),
    )
    return meters.result(damage, { in: 0, out: samples.out - samples.in })
  })
}
