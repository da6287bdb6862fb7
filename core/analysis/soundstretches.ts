import type { FrameRange } from '../time/range'
import { nominalRate, type Frames } from '../time/rate'
import { frameAtSample, sampleAtFrame } from '../time/samples'
import type { Meter } from './meter'
import type { SoundFacts } from './soundfacts'
import type { SoundFaults } from './soundfaults'
import { soundTraceLayout, type SoundShape } from './soundtrace'

/** Stretches of sound that a person should listen to, as its trace shows them, in frames from the first one fed. */
export interface SoundStretches {
  /** Every channel under −60 dBFS for half a second or more. */
  readonly silence: readonly FrameRange[]
  /**
   * The first two channels work against each other (correlation under −0.5 over a tenth of a second) for a second or
   * more.
   */
  readonly phase: readonly FrameRange[]
}

const quiet = 0.001

export function soundStretches(shape: SoundShape): Meter<Float32Array, SoundStretches> {
  const layout = soundTraceLayout(shape)
  const second = Math.max(1, nominalRate(shape.rate))
  const window = Math.ceil(second / 10)
  const silence = runs(Math.ceil(second / 2))
  const phase = runs(second)
  const recent: number[][] = []
  return {
    feed(row) {
      let loudest = 0
      for (let c = 0; c < shape.channels; c++) loudest = Math.max(loudest, row[layout.peaks + c]!)
      silence.feed(loudest < quiet)
      if (shape.channels < 2) return
      recent.push([0, 1, 2].map((i) => row[layout.products + i]!))
      if (recent.length > window) recent.shift()
      const [left, cross, right] = [0, 1, 2].map((i) => recent.reduce((n, p) => n + p[i]!, 0)) as [
        number,
        number,
        number,
      ]
      const both = Math.sqrt(left * right)
      phase.feed(both > 1e-6 * recent.length * (shape.sampleRate / second) && cross / both < -0.5)
    },
    result: () => ({ silence: silence.result(), phase: phase.result() }),
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

/** Sound of a region, heard by its channels, and what is wrong with it, in its own frames. */
export interface RegionSound extends SoundFacts {
  readonly faults: SoundTrouble
}

/** All that a person should listen to, in frames. */
export type SoundTrouble = Readonly<Record<keyof SoundStretches | keyof SoundFaults, readonly FrameRange[]>>

/** Stretches and damage of sound that begins at frame `first` of its timeline, in frames from there. */
export function troubleOf(
  stretches: SoundStretches,
  damage: SoundFaults,
  shape: SoundShape,
  first: Frames,
): SoundTrouble {
  const from = sampleAtFrame(first, shape.rate, shape.sampleRate)
  const frame = (sample: number) => frameAtSample(from + sample, shape.rate, shape.sampleRate) - first
  const inFrames = (list: SoundFaults['clicks']) =>
    list.map((r) => ({ in: frame(r.in), out: frame(Math.max(r.in, r.out - 1)) + 1 }))
  return { ...stretches, clicks: inFrames(damage.clicks), dropouts: inFrames(damage.dropouts) }
}
