import { joined, type FrameRange } from '../time/range'
import { nominalRate, sameRate, type Frames, type Rate, type Samples } from '../time/rate'
import { frameAtSample, sampleAtFrame } from '../time/samples'
import { pairsIn } from '../sound/layout'
import type { MeasuredHead } from './head'
import type { Meter } from './meter'
import type { SoundFacts } from './soundfacts'
import type { SampleRange, SoundFaults } from './soundfaults'
import { productsOf, soundTraceLayout, type SoundShape } from './soundtrace'

/** Stretches of sound that a person should listen to, as its trace shows them, in frames from the first one fed. */
export interface SoundStretches {
  /** Every channel that is heard under −60 dBFS for half a second or more. */
  readonly silence: readonly FrameRange[]
  /**
   * Left and right of a mix work against each other (correlation under −0.5 over a tenth of a second), for a
   * second or more.
   */
  readonly phase: readonly FrameRange[]
}

const quiet = 0.001

/**
 * Finds them in the channels heard: `route` gives the source channel (from 0, −1 is silence) of each, in order,
 * `layout` what each is taken to be.
 */
export function soundStretches(
  shape: SoundShape,
  route: readonly number[],
  layout: string | null,
): Meter<Float32Array, SoundStretches> {
  const heard = route.filter((c) => c >= 0)
  const pairs = pairsIn(route.length, layout).flatMap((pair) => {
    const places = productsOf(pair.map((at) => route[at] ?? -1))
    return places ? [againstEachOther(shape, places)] : []
  })
  const at = soundTraceLayout(shape)
  const silence = runs(Math.ceil(secondOf(shape) / 2))
  return {
    feed(row) {
      let loudest = 0
      for (const c of heard) loudest = Math.max(loudest, row[at.peaks + c]!)
      silence.feed(loudest < quiet)
      for (const pair of pairs) pair.feed(row)
    },
    result: () => ({ silence: silence.result(), phase: joined(pairs.flatMap((pair) => pair.result())) }),
  }
}

const secondOf = ({ rate }: SoundShape): Frames => Math.max(1, nominalRate(rate))

/** Where the channels of a pair work against each other; `places` are their products in a row. */
function againstEachOther(
  shape: SoundShape,
  places: readonly [number, number, number],
): Meter<Float32Array, FrameRange[]> {
  const { products } = soundTraceLayout(shape)
  const second = secondOf(shape)
  const window = Math.ceil(second / 10)
  const phase = runs(second)
  const recent: number[][] = []
  return {
    feed(row) {
      recent.push(places.map((i) => row[products + i]!))
      if (recent.length > window) recent.shift()
      const sum = (at: number) => recent.reduce((n, p) => n + p[at]!, 0)
      const [left, cross, right] = [sum(0), sum(1), sum(2)]
      const both = Math.sqrt(left * right)
      phase.feed(both > 1e-6 * recent.length * (shape.sampleRate / second) && cross / both < -0.5)
    },
    result: () => phase.result(),
  }
}

/** Stretches of frames of which something is so, none shorter than `shortest`. */
function runs(shortest: Frames): Meter<boolean, FrameRange[]> {
  const out: FrameRange[] = []
  let from = -1
  let n = 0
  const closed = () => (from >= 0 && n - from >= shortest ? [{ in: from, out: n }] : [])
  return {
    feed(so) {
      if (so && from < 0) from = n
      if (!so && from >= 0) {
        out.push(...closed())
        from = -1
      }
      n++
    },
    result: () => [...out, ...closed()],
  }
}

/** Sound of a region, heard by its channels, and what is wrong with it, in frames from its programme's first. */
export interface RegionSound extends SoundFacts {
  readonly faults: SoundTrouble
  /** Sample peak of every channel of the source, whether it is written or not: dBFS, null for silence. */
  readonly sourcePeaks: readonly (number | null)[]
  /** What it begins with, which all of this leaves out. */
  readonly head: MeasuredHead | null
}

/** All that a person should listen to, in frames. */
export type SoundTrouble = Readonly<Record<keyof SoundStretches | keyof SoundFaults, readonly FrameRange[]>>

/** The trouble of parts of something longer as that of all of it; each counts from its own first frame, at `at`. */
export function troubleOfParts(
  parts: readonly { readonly at: Frames; readonly trouble: SoundTrouble }[],
): SoundTrouble {
  const list = (of: (t: SoundTrouble) => readonly FrameRange[]) =>
    parts.flatMap(({ at, trouble }) => of(trouble).map((r) => ({ in: at + r.in, out: at + r.out })))
  return {
    silence: list((t) => t.silence),
    phase: list((t) => t.phase),
    clicks: list((t) => t.clicks),
    dropouts: list((t) => t.dropouts),
    data: list((t) => t.data),
  }
}

/**
 * Stretches and damage of sound that begins at frame `first` of its timeline, in frames of the timeline from there.
 * `counted` is the timeline's rate, where the sound was not traced at it.
 */
export function troubleOf(
  stretches: SoundStretches,
  damage: SoundFaults,
  shape: SoundShape,
  first: Frames,
  counted: Rate = shape.rate,
): SoundTrouble {
  const from = sampleAtFrame(first, counted, shape.sampleRate)
  const frame = (sample: Samples) => frameAtSample(from + sample, counted, shape.sampleRate) - first
  const inFrames = (list: readonly SampleRange[]) =>
    list.map((r) => ({ in: frame(r.in), out: frame(Math.max(r.in, r.out - 1)) + 1 }))
  const traced = (n: Frames) => sampleAtFrame(n, shape.rate, shape.sampleRate)
  const asCounted = (list: readonly FrameRange[]) =>
    sameRate(counted, shape.rate) ? list : inFrames(list.map((r) => ({ in: traced(r.in), out: traced(r.out) })))
  return {
    silence: asCounted(stretches.silence),
    phase: asCounted(stretches.phase),
    clicks: inFrames(damage.clicks),
    dropouts: inFrames(damage.dropouts),
    data: inFrames(damage.data),
  }
}
