import type { Frames, Rate, Samples } from '../time/rate'
import { history, samplePeak, truePeakOf } from '../kernel/truepeak'
import { weighBoth, weighPlain, type WeightingTaps } from '../kernel/weighting'
import { pairsIn } from '../sound/layout'
import { sampleAtFrame } from '../time/samples'
import { weightingTaps } from './kweighting'
import { growing, loudnessOf, runningLoudness, slotsOf, slotsOfTenth } from './loudness'
import type { Meter } from './meter'
import { mixesOf, mixGains } from './mixes'
import { levelFactsOf, mixFactsOf, pairFactsOf, type SoundFacts } from './soundfacts'

/** Sound that goes with pictures: what its trace is of. */
export interface SoundShape {
  readonly channels: number
  readonly sampleRate: number
  readonly rate: Rate
}

/**
 * What is kept of the sound of one frame, as 32-bit floats, so that any region is read without its sound: where each
 * field begins. Filters that start anew at a region's first frame sound different for a moment; so every frame also
 * keeps what would come out were it the first one.
 */
interface Layout {
  /** Slots of a frame. */
  readonly slots: number
  /** Slots in which a filter started anew still differs: a tenth of a second, after which less than 1e-9 is left. */
  readonly anew: number
  /** K-weighted energy: by channel, by slot. */
  readonly energies: number
  /** The same were this frame the first, for the `anew` slots from it on. */
  readonly energiesAnew: number
  /** True peak by channel; and were this frame the first. Linear. */
  readonly truePeaks: number
  readonly truePeaksAnew: number
  /** Sample peak by channel. */
  readonly peaks: number
  /** Sums of products of channels: 1·1, 1·2, 2·2, 1·3 … */
  readonly products: number
  /** Floats of a frame. */
  readonly length: number
}

export function soundTraceLayout({ channels: c, rate }: SoundShape): Layout {
  const perSecond = slotsOf(rate)
  const slots = Math.round((perSecond.num * rate.den) / (perSecond.den * rate.num))
  const anew = slotsOfTenth(perSecond)
  const energiesAnew = c * slots
  const truePeaks = energiesAnew + c * anew
  return {
    slots,
    anew,
    energies: 0,
    energiesAnew,
    truePeaks,
    truePeaksAnew: truePeaks + c,
    peaks: truePeaks + 2 * c,
    products: truePeaks + 3 * c,
    length: truePeaks + 3 * c + (c * (c + 1)) / 2,
  }
}

/** Where the product of two channels stands among those of a row. */
const productAt = (a: number, b: number) => (Math.max(a, b) * (Math.max(a, b) + 1)) / 2 + Math.min(a, b)

/** A frame whose trace is taken; `states` are filters started anew at it, which still differ until `done`. */
interface Open {
  readonly frame: Frames
  readonly row: Float32Array
  done: number
  readonly states: readonly Float64Array[]
}

/**
 * Takes the trace of sound as it is fed, in blocks of any length, from frame `first` of its timeline on. `rows` gives
 * the frames that are complete since the last call; after `finish` the rest, as if silence followed. With `regions` any
 * frame may begin a region; without, only the first one.
 */
export class SoundTracer {
  private readonly layout: Layout
  private readonly perSecond: Rate
  private readonly taps: WeightingTaps
  private readonly origin: Samples
  /** The frame in hand, with the samples before it. */
  private readonly work: readonly Float32Array[]
  private readonly anewWork = new Float32Array(2 * history)
  private readonly running: readonly Float64Array[]
  private open: Open[] = []
  private complete: Open[] = []
  private frame: Frames
  private filled = 0
  /** Samples of the frame in hand that are sound, once the sound has ended within it. */
  private heard = Infinity

  constructor(
    private readonly shape: SoundShape,
    private readonly first: Frames,
    private readonly regions: boolean,
  ) {
    const { channels, sampleRate, rate } = shape
    this.layout = soundTraceLayout(shape)
    this.perSecond = slotsOf(rate)
    this.taps = weightingTaps(sampleRate)
    this.origin = sampleAtFrame(first, rate, sampleRate)
    const longest = Math.ceil((sampleRate * rate.den) / rate.num) + 1
    this.work = Array.from({ length: channels }, () => new Float32Array(history + longest))
    this.running = this.work.map(() => new Float64Array(4))
    this.frame = first
  }

  private begin(n: Frames): Samples {
    return sampleAtFrame(n, this.shape.rate, this.shape.sampleRate) - this.origin
  }

  feed(block: readonly Float32Array[]): void {
    const n = block[0]?.length ?? 0
    for (let at = 0; at < n;) {
      const length = this.begin(this.frame + 1) - this.begin(this.frame)
      const taken = Math.min(n - at, length - this.filled)
      for (let c = 0; c < this.shape.channels; c++)
        this.work[c]!.set(block[c]!.subarray(at, at + taken), history + this.filled)
      this.filled += taken
      at += taken
      if (this.filled === length) this.endFrame(length)
    }
  }

  rows(): Float32Array[] {
    const out = this.complete.map((o) => o.row)
    this.complete = []
    return out
  }

  finish(): void {
    const end = this.filled > 0 ? this.frame + 1 : this.frame
    this.heard = this.filled
    while (this.frame < end || this.open.some((o) => o.frame < end)) {
      const silence = new Float32Array(this.begin(this.frame + 1) - this.begin(this.frame) - this.filled)
      this.feed(this.work.map(() => silence))
    }
    this.complete = this.complete.filter((o) => o.frame < end)
    this.open = []
  }

  private endFrame(length: number): void {
    const { layout, frame } = this
    const row = new Float32Array(layout.length)
    this.open.push({
      frame,
      row,
      done: this.regions || frame === this.first ? 0 : layout.anew,
      states: this.work.map(() => new Float64Array(4)),
    })
    const peaks = this.work.map((x) => samplePeak(x, history, history + length, 0))
    row.set(peaks, layout.peaks)
    this.traceEnergies(peaks)
    for (let c = 0; c < this.shape.channels; c++) this.traceChannel(c, history + length)
    for (const o of this.open) o.done += layout.slots
    for (const x of this.work) x.copyWithin(0, length, length + history)
    while (this.open.length > 0 && this.open[0]!.done >= layout.anew) this.complete.push(this.open.shift()!)
    this.frame++
    this.filled = 0
    if (Number.isFinite(this.heard)) this.heard = 0
  }

  /** Energies of the frame in hand, slot by slot: of the sound as it runs, and of filters started anew. */
  private traceEnergies(peaks: readonly number[]): void {
    const { layout } = this
    const { row } = this.open.at(-1)!
    const start = history - this.origin - this.begin(this.frame)
    for (let s = 0; s < layout.slots; s++) {
      const slot = this.frame * layout.slots + s
      const from = start + sampleAtFrame(slot, this.perSecond, this.shape.sampleRate)
      const to = start + sampleAtFrame(slot + 1, this.perSecond, this.shape.sampleRate)
      // BS.1770-5 leaves out what is no whole block at the end: a slot that silence was added to does not count
      const whole = to - history <= this.heard
      const weigh = (states: readonly Float64Array[], into: Float32Array, at: number, apart: number) => {
        const energies = whole ? this.energies(peaks, states, from, to) : states.map(() => NaN)
        energies.forEach((e, c) => (into[at + c * apart] = e))
      }
      weigh(this.running, row, layout.energies + s, layout.slots)
      for (const o of this.open)
        if (o.done + s < layout.anew) weigh(o.states, o.row, layout.energiesAnew + o.done + s, layout.anew)
    }
  }

  /** Energy of samples [from, to) of every channel, two at a time; silence through filters at rest has none. */
  private energies(peaks: readonly number[], states: readonly Float64Array[], from: Samples, to: Samples): number[] {
    const out = states.map(() => 0)
    const sounds = (state: Float64Array, c: number) => peaks[c] !== 0 || state.some((z) => z !== 0)
    const sounding = states.flatMap((state, c) => (sounds(state, c) ? [{ c, x: this.work[c]!, state }] : []))
    for (let i = 0; i < sounding.length; i += 2) {
      const [a, b] = [sounding[i]!, sounding[i + 1]]
      if (b) [out[a.c], out[b.c]] = weighBoth(this.taps, a, b, from, to)
      else out[a.c] = weighPlain(this.taps, a, from, to)
    }
    return out
  }

  /** Traces true peaks and products of the frame in hand of a channel, whose samples are [history, end) of its work. */
  private traceChannel(c: number, end: number): void {
    const { layout, anewWork } = this
    const { row } = this.open.at(-1)!
    const x = this.work[c]!
    const silent = row[layout.peaks + c] === 0
    if (!silent || samplePeak(x, 0, history, 0) > 0) {
      const middle = Math.min(end, 2 * history)
      anewWork.fill(0, 0, history)
      anewWork.set(x.subarray(history, middle), history)
      const rest = truePeakOf(x, middle, end, 0)
      row[layout.truePeaks + c] = truePeakOf(x, history, middle, rest)
      row[layout.truePeaksAnew + c] = truePeakOf(anewWork, history, middle, rest)
    }
    for (let d = 0; d <= c; d++) row[layout.products + productAt(c, d)] = productOf(x, this.work[d]!, history, end)
  }
}

function productOf(x: Float32Array, y: Float32Array, from: number, to: number): number {
  let sum = 0
  for (let i = from; i < to; i++) sum += x[i]! * y[i]!
  return sum
}

/** True peak of each channel in the frame of a row, linear. */
export function truePeaksOf(shape: SoundShape, row: Float32Array): number[] {
  const { truePeaks } = soundTraceLayout(shape)
  return Array.from(row.subarray(truePeaks, truePeaks + shape.channels))
}

/** What channels of data change of the facts: loudness that counts one of them is none. */
function codedFacts(channels: readonly number[], gains: readonly number[]): Partial<SoundFacts> {
  if (channels.length === 0) return {}
  const counted = channels.some((i) => gains[i])
  const none = { integrated: null, range: null, momentaryMax: null, shortTermMax: null }
  return { ...(counted ? none : {}), coded: { channels, counted } }
}

/** Reads sound from traces; for each tenth of a second its loudness can be drawn, null for silence. */
export interface SoundReader extends Meter<Float32Array, SoundFacts> {
  /** Short-term loudness, LUFS. */
  ribbon(): (number | null)[]
  momentary(): (number | null)[]
  /** The facts; `coded` are the channels heard, from 0, that carry data in the place of sound. */
  result(coded?: readonly number[]): SoundFacts
  /** Says that what comes next follows on silence, as if it were the first. */
  begin(): void
  /** Reads so many frames of silence. */
  pause(frames: Frames): void
}

/** Where the products of two channels stand among those of a row; null where one of them is none. */
export const productsOf = ([l = -1, r = -1]: readonly number[]) =>
  l >= 0 && r >= 0 ? ([productAt(l, l), productAt(l, r), productAt(r, r)] as const) : null

/** Energies of a mix by slot, of rows one after the other; `first` is that which begins them. */
function energyReader(shape: SoundShape, route: readonly number[], gains: readonly number[]) {
  const layout = soundTraceLayout(shape)
  const heard = route.flatMap((c, i) => (c >= 0 && gains[i] ? [{ c, gain: gains[i] }] : []))
  const energies = growing()
  return {
    all: () => energies.all(),
    feed(row: Float32Array, first: Float32Array, own: Frames) {
      for (let s = 0; s < layout.slots; s++) {
        const since = own * layout.slots + s
        let sum = 0
        for (const { c, gain } of heard)
          sum +=
            gain *
            (since < layout.anew
              ? first[layout.energiesAnew + c * layout.anew + since]!
              : row[layout.energies + c * layout.slots + s]!)
        if (!Number.isNaN(sum)) energies.push(sum)
      }
    },
  }
}

/** Sums of the products of a pair of channels heard, of rows one after the other. */
function pairReader(shape: SoundShape, route: readonly number[], channels: readonly [number, number]) {
  const { products } = soundTraceLayout(shape)
  const places = productsOf(channels.map((at) => route[at] ?? -1))
  const sums: [number, number, number] = [0, 0, 0]
  return {
    feed: (row: Float32Array) => places?.forEach((p, i) => (sums[i]! += row[products + p]!)),
    facts: (samples: number) => pairFactsOf(channels, places && sums, samples),
  }
}

/** Highest peaks of the channels heard, linear, of rows one after the other. */
function peakReader(shape: SoundShape, route: readonly number[]) {
  const layout = soundTraceLayout(shape)
  const peaks = route.map(() => 0)
  const truePeaks = route.map(() => 0)
  return {
    peaks,
    truePeaks,
    feed(row: Float32Array, begins: boolean) {
      route.forEach((c, i) => {
        if (c < 0) return
        truePeaks[i] = Math.max(truePeaks[i]!, row[(begins ? layout.truePeaksAnew : layout.truePeaks) + c]!)
        peaks[i] = Math.max(peaks[i]!, row[layout.peaks + c]!)
      })
    },
  }
}

/**
 * Reads the facts of a stretch from its rows, the first of which begins it. `route` gives the source channel (from 0,
 * −1 is silence) of each channel heard, `heardAs` what each is taken to be.
 */
export function soundReader(shape: SoundShape, route: readonly number[], heardAs: string | null): SoundReader {
  const slots = slotsOf(shape.rate)
  const { programme, others, untold } = mixesOf(route.length, heardAs)
  const gainsOf = (mix: readonly number[]) => mixGains(route.length, heardAs, mix)
  const [energies, ...energiesBeside] = [programme, ...others].map((mix) => energyReader(shape, route, gainsOf(mix)))
  const pairs = pairsIn(route.length, heardAs).map((channels) => pairReader(shape, route, channels))
  const { peaks, truePeaks, ...level } = peakReader(shape, route)
  let frames = 0
  /** Frames since what came first, or first after silence. */
  let own = 0
  let head: Float32Array | null = null
  const loudness = (of: Float64Array) => loudnessOf(of, slots, shape.sampleRate)
  const drawn = (tenths: 4 | 30) =>
    Array.from(runningLoudness(energies!.all(), slots, shape.sampleRate, tenths), (v) =>
      Number.isFinite(v) ? Math.round(v * 10) / 10 : null,
    )
  const reader: SoundReader = {
    begin() {
      own = 0
      head = null
    },
    pause(count) {
      const silence = new Float32Array(soundTraceLayout(shape).length)
      reader.begin()
      for (let n = 0; n < count; n++) reader.feed(silence)
      reader.begin()
    },
    feed(row) {
      head ??= Float32Array.from(row)
      for (const mix of [energies!, ...energiesBeside]) mix.feed(row, head, own)
      for (const pair of pairs) pair.feed(row)
      level.feed(row, own === 0)
      frames++
      own++
    },
    result(coded = []) {
      const truePeak = truePeaks.reduce((most, v, i) => (coded.includes(i) ? most : Math.max(most, v)), 0)
      const samples = sampleAtFrame(frames, shape.rate, shape.sampleRate)
      return {
        ...levelFactsOf(loudness(energies!.all()), truePeak, peaks),
        pairs: pairs.map((pair) => pair.facts(samples)),
        ...(programme.length < route.length ? { programme } : {}),
        others: others.map((channels, i) => mixFactsOf(channels, loudness(energiesBeside[i]!.all()))),
        untold,
        ...codedFacts(coded, gainsOf(programme)),
      }
    },
    ribbon: () => drawn(30),
    momentary: () => drawn(4),
  }
  return reader
}
