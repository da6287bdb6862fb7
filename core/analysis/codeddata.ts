import type { Samples } from '../time/rate'
import type { Meter } from './meter'

// Data that stands in PCM channels where sound would: bursts behind a preamble (SMPTE ST 337, IEC 61937-1), as coded
// sound is carried through equipment that knows only PCM. Heard as sound it is noise at full scale.

/** Samples [in, out), from the first burst to the end of the last, and how far apart these began at its end. */
interface Stretch {
  readonly in: Samples
  readonly out: Samples
  readonly apart: Samples
}

/** The two words that a burst begins with, Pa and Pb, of 16, 20 and 24 bits: fractions of full scale (ST 337). */
const [[a, A], [b, B], [c, C]] = [
  [(0xf872 - 2 ** 16) / 2 ** 15, 0x4e1f / 2 ** 15],
  [0x6f872 / 2 ** 19, 0x54e1f / 2 ** 19],
  [(0x96f872 - 2 ** 24) / 2 ** 23, (0xa54e1f - 2 ** 24) / 2 ** 23],
] as const

/** Whether two words begin a burst. */
const begins = (v: number, next: number | undefined) =>
  (v === a && next === A) || (v === b && next === B) || (v === c && next === C)

/** Bursts that make data: two words alone may come by chance. */
const fewest = 3
const mostKept = 1000

interface Channel {
  /** Stretches that have ended, and that in hand. */
  readonly done: Stretch[]
  from: Samples
  last: Samples
  apart: Samples
  count: number
  /** The sample before what is fed next. */
  before: number
}

/**
 * Finds the stretches in which each channel carries data, in one pass; samples count from the first one fed. A burst
 * stands in one channel, word after word, or in two side by side, in turns. Those up to a second apart are one stretch.
 */
export function codedData(channels: number, sampleRate: number): Meter<readonly Float32Array[], readonly Stretch[][]> {
  let fed = 0
  const each = Array.from({ length: channels }, (): Channel => ({
    done: [],
    from: -1,
    last: -1,
    apart: 0,
    count: 0,
    before: 0,
  }))
  const ended = ({ from, last, apart, count }: Channel): Stretch[] =>
    count >= fewest ? [{ in: from, out: last + apart, apart }] : []
  const burst = (s: Channel, at: Samples) => {
    if (at === s.last) return
    if (s.count && at - s.last <= sampleRate) {
      s.apart = at - s.last
      s.count++
    } else {
      if (s.done.length < mostKept) s.done.push(...ended(s))
      s.from = at
      s.count = 1
    }
    s.last = at
  }
  return {
    feed(block) {
      for (let k = 0; k < channels; k++) {
        const x = block[k]!
        const beside = block[k + 1]
        const own = each[k]!
        if (begins(own.before, x[0])) burst(own, fed - 1)
        for (let i = 0; i < x.length; i++) {
          const v = x[i]!
          if (v !== a && v !== b && v !== c) continue
          if (begins(v, x[i + 1])) burst(own, fed + i)
          else if (beside && begins(v, beside[i])) {
            burst(own, fed + i)
            burst(each[k + 1]!, fed + i)
          }
        }
        own.before = x.at(-1) ?? own.before
      }
      fed += block[0]?.length ?? 0
    },
    result: () => each.map((s) => [...s.done, ...ended(s)].map((r) => ({ ...r, out: Math.min(r.out, fed) }))),
  }
}
