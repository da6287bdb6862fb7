import { open, rename } from 'node:fs/promises'
import type { SoundSource } from '../../../core/codec/codec'
import { openChannels } from '../../../core/codec/sound'
import type { SoundAnalysis } from '../../../core/analysis/soundanalysis'
import { layoutOf } from '../../../core/sound/layout'
import {
  codedWithin,
  faultsWithin,
  soundFaults,
  type ChannelDamage,
  type SampleRange,
} from '../../../core/analysis/soundfaults'
import { soundStretches, troubleOf } from '../../../core/analysis/soundstretches'
import { soundReader, SoundTracer, type SoundShape } from '../../../core/analysis/soundtrace'
import type { FrameRange } from '../../../core/time/range'
import { makeRate, traceRate, type Frames, type Rate, type Samples } from '../../../core/time/rate'
import { frameAtSample, sampleAtFrame } from '../../../core/time/samples'
import { soundTraceFile } from '../../storage/soundtraces'
import { withSource } from './analysepictures'
import type { BackgroundStep } from '../background'

// The sound of a timeline, heard once: what is kept of every frame, and what it says of the whole.

export const everyChannel = (shape: SoundShape) => Array.from({ length: shape.channels }, (_, c) => c)

export const samplesOf = (shape: SoundShape, range: FrameRange): SampleRange => ({
  in: sampleAtFrame(range.in, shape.rate, shape.sampleRate),
  out: sampleAtFrame(range.out, shape.rate, shape.sampleRate),
})

/**
 * Feeds a stretch of sound, of its channels that can be read, to its tracer; its first sample is that of frame `first`.
 * Gives the traces as they are complete, and the damage. Progress is in frames of the trace.
 */
export async function listen(
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
  const open = openChannels(sound)
  for (let at = samples.in; at < samples.out; at += shape.sampleRate) {
    const block = await sound.read(at, Math.min(shape.sampleRate, samples.out - at), open)
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
 * Every measure of a whole sound in one pass, up to the sample `end`, counted in frames of `rate`; `keep` gets the
 * trace of each.
 */
export async function analyseWholeSound(
  sound: SoundSource,
  rate: Rate,
  end: Samples,
  progress: (frames: Frames) => void,
  keep: ((rows: Float32Array[]) => Promise<void>) | null = null,
): Promise<SoundAnalysis> {
  const counted: SoundShape = { channels: sound.channels, sampleRate: sound.sampleRate, rate }
  const shape = { ...counted, rate: traceRate(rate) }
  const samples = { in: 0, out: end }
  const { layout = layoutOf(shape.channels) } = sound
  const reader = soundReader(shape, everyChannel(shape), layout)
  const stretches = soundStretches(shape, everyChannel(shape), layout)
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
    facts: reader.result(codedWithin(damage, samples)),
    faults: troubleOf(stretches.result(), faultsWithin(damage, samples), shape, 0, rate),
    shape,
    damage,
    ...(sound.closed ? { closed: [...sound.closed.keys()] } : {}),
  }
}

/**
 * Every measure of a timeline's sound; the traces of its frames are kept one after the other as 32-bit floats,
 * little-endian. Of a file of sound alone none are kept: its regions begin at any sample.
 */
export function analyseSound(step: BackgroundStep): Promise<SoundAnalysis | null> {
  const kept = soundTraceFile(step.cache, step.ref.fingerprint)
  return withSource(step, step.ref, null, async (source) => {
    const { info } = source
    const sound = source.sound()
    if (!sound) return null
    const told = (n: Frames) => step.progress(n)
    const rate = step.ref.assembly?.timeline.rate ?? info.video[0]?.rate
    if (!rate) return analyseWholeSound(sound, makeRate(sound.sampleRate), sound.samples, told)
    const scratch = `${kept}.${step.claim.step}-${step.claim.fence}`
    const file = await open(scratch, 'w')
    try {
      const end = sampleAtFrame(step.claim.frames, rate, sound.sampleRate)
      const analysis = await analyseWholeSound(sound, rate, end, told, async (rows) => {
        if (rows.length) await file.writeFile(Buffer.concat(rows.map((r) => Buffer.from(r.buffer))))
      })
      // a name over nothing would be silence that nobody heard
      await file.sync()
      await step.hold()
      await rename(scratch, kept)
      return analysis
    } finally {
      await file.close()
    }
  })
}
