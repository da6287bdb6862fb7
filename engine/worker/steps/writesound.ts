import path from 'node:path'
import { encodePcm } from '../../../core/codec/pcm/pcm'
import { soundMeter } from '../../../core/analysis/sound'
import { headIn } from '../../../core/deliverable/sheet'
import { leadOf, SampleClock, timelineRanges } from '../../../core/lineup/lineup'
import { mulDivRound, sampleAtFrame } from '../../../core/time/samples'
import { wavHead, type BextLoudness } from '../../../core/container/wav/write'
import { fileSink } from '../../storage/disk'
import { claimedFile, type DeliverableStep } from '../context'
import { soundAsWritten } from '../making/sound'

/**
 * Writes the sound of a deliverable as a broadcast wave file; the loudness fields of `bext` are measured on the way, of
 * its programme alone.
 */
export async function writeSound(step: DeliverableStep): Promise<{ file: string }> {
  const { item } = step
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
      const block = await soundAsWritten(step, s, count)
      const before = Math.max(0, begin - s)
      if (before < count) meter.feed(before > 0 ? block.map((c) => c.subarray(before)) : block)
      const bytes = encodePcm(block, depth, true)
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
