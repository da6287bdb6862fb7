import path from 'node:path'
import { encodePcm } from '../../../core/codec/pcm/pcm'
import { soundMeter } from '../../../core/analysis/sound'
import { dithered } from '../../../core/sound/dither'
import { headIn } from '../../../core/deliverable/sheet'
import { isMade, leadOf, SampleClock, timelineRanges, type SoundPart } from '../../../core/lineup/lineup'
import { mulDivRound, sampleAtFrame } from '../../../core/time/samples'
import { wavHead, type BextLoudness } from '../../../core/container/wav/write'
import { fileSink } from '../../storage/disk'
import { claimedFile, type DeliverableStep } from '../context'

/**
 * Sound as it goes into fewer bits: with dither, where it had more of them or was worked on. What is written as it was
 * stays so, sample by sample; silence stays silence.
 */
function rounded(
  { item, source }: DeliverableStep,
  block: Float32Array[],
  parts: readonly SoundPart[],
): Float32Array[] {
  const { soundDepth, dither, gain } = item.recipe
  const { sampleRate, downmix } = item.output.audio!
  const finer = source.info.audio.some(
    (a) => a.codec !== 'pcm' || a.bitDepth > soundDepth || a.sampleRate !== sampleRate,
  )
  if (!dither || soundDepth !== 16 || !(finer || downmix || gain !== 0)) return block
  return block.map((c, i) => {
    if (!downmix && item.route[i]! < 0) return c
    const out = c.slice()
    let at = 0
    for (const { section, from, count } of parts) {
      // what is made is made for the file
      if (!isMade(section)) out.set(dithered(c.subarray(at, at + count), soundDepth, from, i), at)
      at += count
    }
    return out
  })
}

/**
 * Writes the sound of a deliverable as a broadcast wave file; the loudness fields of `bext` are measured on the way, of
 * its programme alone.
 */
export async function writeSound(step: DeliverableStep): Promise<{ file: string }> {
  const { item, source } = step
  const { output } = item
  const a = output.audio!
  const depth = item.recipe.soundDepth
  const { rate } = item.timeline
  const clock = new SampleClock(output, item.region, rate, a.sampleRate)
  const lead = leadOf(output) + (headIn(item)?.programme ?? 0)
  const begin = clock.before(lead)
  const first = timelineRanges(output, item.region)[0]!.in - leadOf(output) + lead
  const meter = soundMeter({ channels: a.channels, sampleRate: a.sampleRate, rate }, a.layout, first)
  const now = new Date().toISOString()
  const mode = a.channels === 1 ? 'mono' : a.channels === 2 ? 'stereo' : 'multi'
  const head = (loudness: BextLoudness | null) =>
    wavHead({
      ...{ channels: a.channels, layout: a.layout },
      sampleRate: a.sampleRate,
      bitDepth: depth,
      samples: output.samples,
      cues: item.chapters.map((c) => ({ at: clock.before(c.at), name: c.name })),
      bext: {
        description: `${item.timeline.show}: ${item.region.name}`,
        originator: 'Velvet Crane',
        originatorReference: item.region.metadata['production number'] ?? '',
        date: now.slice(0, 10),
        time: now.slice(11, 19),
        timeReference: sampleAtFrame(output.start.frames, rate, a.sampleRate),
        loudness,
        history: `A=PCM,F=${a.sampleRate},W=${depth},M=${mode},T=Velvet Crane\r\n`,
      },
    })
  const file = claimedFile(step, 'file')
  const sink = await fileSink(file)
  try {
    const size = head(null).length
    let at = size
    for (let s = 0; s < output.samples; s += a.sampleRate) {
      const count = Math.min(a.sampleRate, output.samples - s)
      const block = await source.soundOf(s, count)
      const before = Math.max(0, begin - s)
      if (before < count) meter.feed(before > 0 ? block.map((c) => c.subarray(before)) : block)
      const bytes = encodePcm(rounded(step, block, clock.parts(s, count)), depth, true)
      await sink.write(at, bytes)
      at += bytes.length
      step.progress(mulDivRound(output.frames, s, Math.max(1, output.samples)))
    }
    if ((at - size) & 1) await sink.write(at, new Uint8Array(1))
    const facts = meter.result()
    await sink.write(
      0,
      head({
        integrated: facts.integrated,
        range: facts.range,
        truePeak: facts.truePeak,
        momentaryMax: facts.momentaryMax,
        shortTermMax: facts.shortTermMax,
      }),
    )
    await sink.finish()
  } catch (e) {
    await sink.close().catch(() => undefined)
    throw e
  }
  return { file: path.basename(file) }
}
