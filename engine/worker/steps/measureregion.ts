import { contentMeter } from '../../../core/analysis/content'
import { headReach, measuredHead, tones, type MeasuredHead } from '../../../core/analysis/head'
import { decibels } from '../../../core/analysis/meter'
import { damageFinder, partsMeter, type PictureFacts } from '../../../core/analysis/pictures'
import type { SoundAnalysis } from '../../../core/analysis/soundanalysis'
import { codedWithin, faultsWithin, type ChannelDamage, type SampleRange } from '../../../core/analysis/soundfaults'
import {
  soundStretches,
  troubleOf,
  troubleOfParts,
  type RegionSound,
  type SoundTrouble,
} from '../../../core/analysis/soundstretches'
import { soundReader, soundTraceLayout, type SoundReader, type SoundShape } from '../../../core/analysis/soundtrace'
import type { SoundSource } from '../../../core/codec/codec'
import { isKnownCodec } from '../../../core/codec/registry'
import { codecsOf } from '../../../core/recipe/output'
import { downmixChannels, downmixed, type Downmix } from '../../../core/sound/downmix'
import { layoutOf } from '../../../core/sound/layout'
import type { FrameRange } from '../../../core/time/range'
import { countsSamples, nominalRate, traceRate, type Frames, type Rate } from '../../../core/time/rate'
import { readSoundTraces } from '../../storage/soundtraces'
import { factKeys } from '../../store/facts'
import type { BackgroundStep } from '../background'
import { tracesOf, withSource } from './analysepictures'
import { everyChannel, listen, samplesOf } from './analysesound'

// What files show of a timeline, measured: its programme alone, where it begins with line-up. Read from what the passes
// have kept, else from the timeline itself; both give the same.

interface Asked {
  readonly range: FrameRange
  /** Of the timeline. */
  readonly rate: Rate
  /** Channels that are heard as well, behind its own: those from which a downmix is made. */
  readonly mixed?: Mixed | null
}

interface Mixed {
  readonly route: readonly number[]
  readonly downmix: Downmix
}

/** What was heard of a stretch of a timeline: a trace of each frame. */
interface Heard {
  readonly shape: SoundShape
  /** Channels that could not be read. */
  readonly closed: readonly number[]
  readonly rows: readonly Float32Array[]
  readonly damage: readonly ChannelDamage[]
  /** Samples that damage is counted in. */
  readonly samples: SampleRange
}

/** A sound with a downmix of some of its channels behind its own. */
function withDownmix(sound: SoundSource, { route, downmix }: Mixed): SoundSource {
  return {
    ...sound,
    channels: sound.channels + downmixChannels(downmix.to),
    async read(from, count, wanted) {
      const own = await sound.read(
        from,
        count,
        wanted?.filter((c) => c < sound.channels),
      )
      const taken = route.map((c) => own[c] ?? new Float32Array(count))
      return [...own, ...downmixed(taken, downmix)]
    },
  }
}

/** The traces of a stretch's sound, kept or made now; null where there is none. */
async function heardOf(step: BackgroundStep, { range, rate, mixed = null }: Asked): Promise<Heard | null> {
  const { ref } = step
  const key = factKeys.sound(ref.fingerprint)
  const known = (await step.facts.read([key])).get(key) as SoundAnalysis | null | undefined
  const alone = countsSamples(rate)
  const kept = known && !alone && !mixed ? await readSoundTraces(step.cache, ref.fingerprint, known.shape, range) : null
  if (known && kept)
    return {
      ...{ shape: known.shape, rows: kept, damage: known.damage, samples: samplesOf(known.shape, range) },
      closed: known.closed ?? [],
    }
  return withSource(step, ref, range, async (source) => {
    const own = source.sound()
    if (!own) return null
    const sound = mixed ? withDownmix(own, mixed) : own
    const counted: SoundShape = { channels: sound.channels, sampleRate: sound.sampleRate, rate }
    const shape = { ...counted, rate: traceRate(rate) }
    const samples = samplesOf(counted, range)
    const rows: Float32Array[] = []
    const keep = (more: readonly Float32Array[]) => void rows.push(...more)
    const damage = await listen(sound, shape, alone ? 0 : range.in, samples, false, keep, () => step.progress(0))
    const closed = [...(sound.closed?.keys() ?? [])]
    return { shape, rows, damage, closed, samples: { in: 0, out: samples.out - samples.in } }
  })
}

/** Line-up that a region begins with; null where there is none. */
async function headOf(step: BackgroundStep, { range, rate }: Asked): Promise<MeasuredHead | null> {
  if (countsSamples(rate)) return null
  const key = factKeys.regionHead(step.ref.fingerprint, range)
  const known = await step.facts.read([key])
  if (known.has(key)) return known.get(key) as MeasuredHead | null
  const length = Math.min(range.out - range.in, headReach * nominalRate(rate))
  const near = { in: range.in, out: range.in + length }
  // pictures are measured as well where nothing can be heard: nobody can tell a line-up there
  const canHear = await withSource(step, step.ref, near, (source) => Promise.resolve(source.canHear(near)))
  const heard = canHear ? await heardOf(step, { range: near, rate }) : null
  const head = heard && (await foundIn(step, { range: near, rate }, heard))
  await step.facts.write(key, head)
  return head
}

async function foundIn(step: BackgroundStep, { range, rate }: Asked, heard: Heard): Promise<MeasuredHead | null> {
  const { shape, rows, damage, samples } = heard
  const layout = layoutOf(shape.channels)
  const reader = soundReader(shape, everyChannel(shape), layout)
  const stretches = soundStretches(shape, everyChannel(shape), layout)
  for (const row of rows) {
    reader.feed(row)
    stretches.feed(row)
  }
  const momentary = reader.momentary()
  // without a tone its pictures need not be looked at
  if (tones(momentary, rate).length === 0) return null
  const { silence } = troubleOf(stretches.result(), faultsWithin(damage, samples), shape, range.in, rate)
  const length = range.out - range.in
  const content = await withSource(step, step.ref, range, async (source) => {
    const [v] = source.info.video
    // pictures that nobody decodes show no line-up
    if (!v || !codecsOf(v).every(isKnownCodec)) return null
    const meter = contentMeter({ ...v, rate, shortestFreeze: nominalRate(rate) })
    for await (const t of tracesOf(step, step.ref, source, range)) meter.feed(t)
    return meter.result()
  })
  const { black = [], freeze = [] } = content ?? {}
  const found = content && measuredHead({ rate, length, black, freeze, silence, momentary })
  if (!found) return null
  return { ...found, tones: peaksWithin(found.lineUp, shape, rows) }
}

/** The peak of a tone in each channel, a second away from both of its ends; dBFS. */
function peaksWithin(tone: FrameRange, shape: SoundShape, rows: readonly Float32Array[]): (number | null)[] {
  const second = nominalRate(shape.rate)
  const { peaks } = soundTraceLayout(shape)
  const within = rows.slice(tone.in + second, tone.out - second)
  return everyChannel(shape).map((c) => {
    const peak = within.reduce((most, row) => Math.max(most, row[peaks + c]!), 0)
    return peak > 0 ? decibels(peak) : null
  })
}

/** What is asked about: the ranges that a file shows of a timeline, in order. */
interface AskedOfFile {
  readonly ranges: readonly FrameRange[]
  /** Of the timeline. */
  readonly rate: Rate
}

/** An earlier edition asked about one range at a time. */
const asked = ({ payload: { ranges, range, rate } }: BackgroundStep): AskedOfFile => ({
  ranges: ranges ?? [range!],
  rate: rate!,
})

/** The line-up that the first range begins with, and the ranges without it: the programme. */
async function programmeOf(step: BackgroundStep, { ranges, rate }: AskedOfFile) {
  const [first, ...rest] = ranges as [FrameRange, ...FrameRange[]]
  const head = await headOf(step, { range: first, rate })
  return { head, programme: [{ in: first.in + (head?.programme ?? 0), out: first.out }, ...rest] }
}

/** Sound of a programme through a route (0-based source channels, −1 silence), brought together, before gain. */
export async function measureSound(step: BackgroundStep): Promise<RegionSound | null> {
  const { route: taken = [], layout = layoutOf(taken.length), downmix } = step.payload
  if (taken.length === 0) return null
  const mixed = downmix ? { route: taken, downmix } : null
  const { rate } = asked(step)
  const { head, programme } = await programmeOf(step, asked(step))
  let reader: SoundReader | null = null
  let peaks: number[] = []
  let written: readonly number[] = taken
  const coded = new Set<number>()
  const parts: { at: Frames; trouble: SoundTrouble }[] = []
  for (const range of programme) {
    const heard = await heardOf(step, { range, rate, mixed })
    if (!heard) return null
    const { shape, rows, damage, samples, closed } = heard
    if (closed.some((c) => taken.includes(c))) return null
    const behind = mixed ? downmixChannels(mixed.downmix.to) : 0
    const own = everyChannel(shape).slice(0, shape.channels - behind)
    written = mixed ? everyChannel(shape).slice(own.length) : taken
    if (reader) reader.pause(step.payload.pause ?? 0)
    reader ??= soundReader(shape, written, layout)
    const stretches = soundStretches(shape, written, layout)
    const { peaks: first } = soundTraceLayout(shape)
    for (const row of rows) {
      reader.feed(row)
      stretches.feed(row)
      peaks = own.map((c) => Math.max(peaks[c] ?? 0, row[first + c]!))
    }
    const ofWritten = damage.filter((_, c) => written.includes(c))
    const trouble = troubleOf(stretches.result(), faultsWithin(ofWritten, samples), shape, range.in, rate)
    parts.push({ at: range.in - programme[0]!.in, trouble })
    for (const c of codedWithin(damage, samples)) coded.add(c)
  }
  // data in one channel of a mix is in all that it gives to
  const data = mixed && taken.some((c) => coded.has(c)) ? written : [...coded]
  return {
    ...reader!.result(written.flatMap((c, i) => (data.includes(c) ? [i] : []))),
    faults: troubleOfParts(parts),
    sourcePeaks: peaks.map((p) => (p > 0 ? decibels(p) : null)),
    head,
  }
}

/** What the traces of a programme say of it alone. */
export async function measurePictures(step: BackgroundStep): Promise<PictureFacts> {
  const { ranges } = asked(step)
  const { head, programme } = await programmeOf(step, asked(step))
  return withSource(step, step.ref, { in: ranges[0]!.in, out: ranges.at(-1)!.out }, async (source) => {
    const meters = partsMeter(source.info.video[0]!)
    const damaged: FrameRange[] = []
    const begin = programme[0]!.in
    for (const [i, range] of ranges.entries()) {
      const finder = damageFinder()
      let frame = range.in
      for await (const t of tracesOf(step, step.ref, source, range)) {
        finder.feed(t)
        if (frame === programme[i]!.in) meters.begin(frame - begin)
        if (frame++ >= programme[i]!.in) meters.feed(t)
      }
      const at = range.in - ranges[0]!.in
      damaged.push(...finder.result().map((r) => ({ in: at + r.in, out: at + r.out })))
    }
    return { ...meters.result(), ...(damaged.length ? { damaged } : {}), head }
  })
}
