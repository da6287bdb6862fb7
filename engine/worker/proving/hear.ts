import { carriedBits } from '../../../core/analysis/carriedbits'
import { ownSoundMeter, type OwnSoundMeter } from '../../../core/analysis/ownsound'
import { soundMeter } from '../../../core/analysis/sound'
import { troubleOfParts } from '../../../core/analysis/soundstretches'
import type { SoundSource } from '../../../core/codec/codec'
import { soundCodec } from '../../../core/codec/registry'
import { headIn } from '../../../core/deliverable/sheet'
import { isMade, leadOf, SampleClock, timelineSections } from '../../../core/lineup/lineup'
import type { Placed } from '../../../core/lineup/section'
import { fail } from '../../../core/problem'
import { fileBase } from '../../../core/recipe/output'
import { recipeKind } from '../../../core/recipe/registry'
import { heardLayout } from '../../../core/recipe/soundtaken'
import { nominalRate, type Frames, type Samples } from '../../../core/time/rate'
import type { DeliverableStep } from '../context'
import { soundAsWritten } from '../making/sound'

const again = 'Run it again; if it happens again, report it with the run sheet.'

/** Peaks of tones in front of a programme, by channel: of what is made, and of what the region begins with. */
interface TonePeaks {
  made: number[]
  found: number[]
}
const dBFS = (peak: number) => (peak > 0 ? 20 * Math.log10(peak) : null)

/** Bits that samples come out in as they went in, but for rounding to these; null where anything of it is coded. */
function exactDepth({ item: { output }, source: { info } }: DeliverableStep): number | null {
  const { codec, bitDepth } = output.audio!
  const codecs = [codec, ...info.audio.flatMap((a) => a.codecs ?? [a.codec])]
  return codecs.every((c) => soundCodec(c)?.keepsDepth) ? bitDepth : null
}

/**
 * Measures the sound of the programme, breaks between its parts included: they are silence, which loudness leaves out.
 * What a person should listen to is told of each part by itself. All that was made is held against what it was to be.
 * Where a copied track cannot be read, nothing is measured.
 */
export async function hear(step: DeliverableStep, sound: SoundSource | null) {
  if (!sound || sound.closed) return null
  const { output, region } = step.item
  const { rate } = fileBase(step.item)
  const { channels, sampleRate, samples } = sound
  const copied = recipeKind(step.item.recipe).copies
  if (!copied) checkLength(step, samples)
  const layout = copied ? (sound.layout ?? null) : heardLayout(output, step.source.info, step.item.route)
  const meterOfPart = () => soundMeter({ channels, sampleRate, rate }, layout)
  const meter = meterOfPart()
  const clock = new SampleClock(output, region, rate, sampleRate)
  const bits = carriedBits()
  const own = copied ? null : ownSoundMeter({ channels, sampleRate, samples, exact: exactDepth(step) })
  const silent = Array.from({ length: channels }, () => 0)
  const peaks: TonePeaks = { made: silent, found: silent }
  const begin = leadOf(output) + (headIn(step.item)?.programme ?? 0)
  const parts = timelineSections(output).map((s) => ({ from: s.at, at: Math.max(0, s.at - begin), meter }))
  if (parts.length > 1) parts.forEach((p) => (p.meter = meterOfPart()))
  for (let at = 0; at < samples; at += sampleRate) {
    const block = await sound.read(at, Math.min(sampleRate, samples - at))
    for (const { section, from, there } of sectionsIn(clock, block, at)) {
      if (own) await hold(step, own, section, from, there)
      const heard = programmeOf(step, clock, section, from, there, peaks)
      if (!heard) continue
      meter.feed(heard)
      bits.feed(heard)
      const ofPart = parts.find((p) => p.from === section?.at)?.meter
      if (ofPart !== meter) ofPart?.feed(heard)
    }
    step.progress(0)
  }
  return {
    ...{ facts: meter.result(), ribbon: meter.ribbon(), bits: bits.result() },
    ...(own ? { own: own.result() } : {}),
    trouble: troubleOfParts(parts.map((p) => ({ at: p.at, trouble: p.meter.trouble() }))),
    tones: { made: peaks.made.map(dBFS), found: peaks.found.map(dBFS) },
  }
}

/** Sound of a file from a sample on; its section is null of what is behind them all, which files of copies may have. */
interface InFile {
  readonly section: Placed | null
  readonly from: Samples
  readonly there: readonly Float32Array[]
}

function* sectionsIn(clock: SampleClock, block: readonly Float32Array[], at: Samples): Generator<InFile> {
  let done = 0
  const length = block[0]!.length
  for (const { section, count } of [...clock.parts(at, length), { section: null, count: Infinity }]) {
    const to = Math.min(length, done + count)
    if (to > done) yield { section, from: at + done, there: block.map((c) => c.subarray(done, to)) }
    done = to
  }
}

function checkLength({ item: { output, target } }: DeliverableStep, samples: Samples): void {
  if (samples !== output.samples)
    fail(
      'prove.samples',
      `The file has ${samples} samples in each channel; ${output.samples} were asked for.`,
      target.path,
      again,
    )
}

/** Holds sound of a file against what it was to be: what is not of the timeline here, what is by its meter. */
async function hold(
  step: DeliverableStep,
  meter: OwnSoundMeter,
  section: Placed | null,
  from: Samples,
  there: readonly Float32Array[],
): Promise<void> {
  const own = await soundAsWritten(step, from, there[0]!.length)
  if (!section || !isMade(section)) return meter.feed(from, there, own)
  // the nearest code of the file is half a step away at most
  const most = 2 ** (1 - step.item.output.audio!.bitDepth)
  there.forEach((c, i) => {
    if (c.some((v, k) => Math.abs(v - own[i]![k]!) > most))
      fail(
        'prove.tone',
        `The sound of the line-up, or of a break, is not what was made, in channel ${i + 1}.`,
        step.item.target.path,
        again,
      )
  })
}

/** The peaks of channels, or those that were found before where they are higher. */
const peaksOf = (sound: readonly Float32Array[], before: readonly number[]) =>
  sound.map((c, i) => c.reduce((m, v) => Math.max(m, Math.abs(v)), before[i]!))

/** What of sound is of the programme, breaks included; `peaks` learns those of the tones before it. */
function programmeOf(
  step: DeliverableStep,
  clock: SampleClock,
  section: Placed | null,
  from: Samples,
  there: readonly Float32Array[],
  peaks: TonePeaks,
): readonly Float32Array[] | null {
  const { output } = step.item
  if (section && isMade(section)) {
    if (section.at > leadOf(output)) return there
    peaks.made = peaksOf(there, peaks.made)
    return null
  }
  const head = headIn(step.item)
  const count = there[0]!.length
  const second = nominalRate(fileBase(step.item).rate)
  const before = (frame: Frames) => clock.before(leadOf(output) + frame)
  const within = (n: Samples) => Math.max(0, Math.min(count, n - from))
  // a second away from both of its ends
  const tone = head ? { in: before(head.lineUp.in + second), out: before(head.lineUp.out - second) } : { in: 0, out: 0 }
  const [a, b] = [within(tone.in), within(tone.out)]
  peaks.found = peaksOf(
    there.map((c) => c.subarray(a, Math.max(a, b))),
    peaks.found,
  )
  const cut = within(before(head?.programme ?? 0))
  return cut < count ? there.map((c) => c.subarray(cut)) : null
}
