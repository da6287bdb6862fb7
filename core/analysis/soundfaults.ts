import { joined } from '../time/range'
import type { Samples } from '../time/rate'
import { codedData } from './codeddata'
import type { Meter } from './meter'

export interface SampleRange {
  readonly in: Samples
  readonly out: Samples
}

/** Damage in sound. Samples count from the first one fed. */
export interface SoundFaults {
  /** Single samples that stand out of what is around them: digital clicks. */
  readonly clicks: readonly SampleRange[]
  /** Zeroes in the middle of sound, of half a millisecond to half a second. */
  readonly dropouts: readonly SampleRange[]
  /** Data in the place of sound, in which there are neither clicks nor dropouts. */
  readonly data: readonly SampleRange[]
}

/** The faults of one channel, before what belongs together is put together. */
export type ChannelDamage = SoundFaults

/** Samples on either side that a click is compared with. */
const reach = 64
const mostKept = 5000

/** Calls `found` for each sample where a wave bends many times more than around it; `sums` has room for all bends. */
function findBends(x: Float32Array, sums: Float64Array, found: (i: number) => void): void {
  let sum = 0
  let [far, near] = [x[0]!, x[1]!]
  sums[2] = 0
  for (let i = 2; i < x.length; i++) {
    const v = x[i]!
    const bend = v - 2 * near + far
    sum += bend < 0 ? -bend : bend
    sums[i + 1] = sum
    far = near
    near = v
  }
  const end = x.length - reach
  for (let i = reach + 2; i < end; i++) {
    const e = sums[i + 1]! - sums[i]!
    if (e < 0.04) continue
    const before = sums[i - 5]! - sums[i - reach + 1]!
    const after = sums[i + reach]! - sums[i + 6]!
    const usual = (before > after ? before : after) / (reach - 6)
    if (e > 14 * usual + 0.02) found(i)
  }
}

/** Finds digital clicks, dropouts and data in one pass, the same however the sound is cut into blocks. */
export function soundFaults(
  channels: number,
  sampleRate: number,
): Meter<readonly Float32Array[], readonly ChannelDamage[]> {
  let fed = 0
  let bends = new Float64Array(0)
  const coded = codedData(channels, sampleRate)
  const add = (list: SampleRange[], r: SampleRange, gap: Samples) => {
    const last = list.at(-1)
    if (last && r.in - last.out <= gap) list[list.length - 1] = { in: last.in, out: Math.max(last.out, r.out) }
    else if (list.length < mostKept) list.push(r)
  }
  const each = Array.from({ length: channels }, () => ({
    clicks: [] as SampleRange[],
    dropouts: [] as SampleRange[],
    tail: new Float32Array(0),
    zeroFrom: -1,
    before: 0,
    level: 0,
  }))

  /**
   * Clicks: a bend of the wave many times larger than those around it. The block is looked at with what came before it.
   */
  function look(state: (typeof each)[number], block: Float32Array) {
    const x = new Float32Array(state.tail.length + block.length)
    x.set(state.tail)
    x.set(block, state.tail.length)
    const zero = fed - state.tail.length
    // bends up to each sample, so that how much a stretch bends is a difference
    if (bends.length < x.length + 1) bends = new Float64Array(x.length + 1)
    findBends(x, bends, (i) => add(state.clicks, { in: zero + i - 2, out: zero + i + 1 }, reach))
    state.tail = x.slice(Math.max(0, x.length - 2 * reach - 2))
  }

  return {
    feed(input) {
      coded.feed(input)
      const n = input[0]?.length ?? 0
      for (let c = 0; c < channels; c++) {
        const state = each[c]!
        const x = input[c]!
        for (let i = 0; i < n; i++) {
          const v = Math.abs(x[i]!)
          if (v < 1e-7) {
            if (state.zeroFrom < 0) {
              state.zeroFrom = fed + i
              state.before = state.level
            }
          } else if (state.zeroFrom >= 0) {
            const length = fed + i - state.zeroFrom
            // sound that fades to nothing and begins again is none: it must break off, and go on, at a level
            if (length >= sampleRate / 2000 && length <= sampleRate / 2 && state.before > 0.004 && v > 0.002)
              add(state.dropouts, { in: state.zeroFrom, out: fed + i }, 0)
            state.zeroFrom = -1
          }
          state.level += (v - state.level) * 0.03
        }
        look(state, x)
      }
      fed += n
    },
    result() {
      const data = coded.result()
      return each.map(({ clicks, dropouts }, c) => {
        // the burst before the first that is whole may have lost its beginning
        const isSound = (r: SampleRange) => !data[c]!.some((x) => r.in < x.out + x.apart && r.out > x.in - x.apart)
        return {
          ...{ clicks: clicks.filter(isSound), dropouts: dropouts.filter(isSound) },
          data: data[c]!.map((x) => ({ in: x.in, out: x.out })),
        }
      })
    },
  }
}

/** What of a stretch lies in a part, counted from its first sample; null where nothing does. */
function clipped(r: SampleRange, part: SampleRange): SampleRange | null {
  const [from, to] = [Math.max(r.in, part.in), Math.min(r.out, part.out)]
  return from < to ? { in: from - part.in, out: to - part.in } : null
}

/** Channels, from 0, that carry data within a part of a sound. */
export const codedWithin = (damage: readonly ChannelDamage[], part: SampleRange): number[] =>
  damage.flatMap(({ data }, c) => (data.some((r) => clipped(r, part)) ? [c] : []))

/**
 * The faults of a part of a sound, as they are found in it alone: those that have enough sound of it around them.
 * Counted from its first sample.
 */
export function faultsWithin(damage: readonly ChannelDamage[], part: SampleRange): SoundFaults {
  const within = (list: readonly SampleRange[], margin: Samples) =>
    list
      .filter((r) => r.in >= part.in + margin && r.out <= part.out - margin)
      .map((r) => ({ in: r.in - part.in, out: r.out - part.in }))
  const each = damage.map((d) => ({ clicks: within(d.clicks, reach), dropouts: within(d.dropouts, 1) }))
  const data = damage.flatMap((d) => d.data.flatMap((r) => clipped(r, part) ?? []))
  return {
    data: joined(data, 0),
    // the two ends of a dropout are none
    clicks: joined(
      each.flatMap((d) => d.clicks.filter((c) => !d.dropouts.some((x) => c.in < x.out + 4 && c.out > x.in - 4))),
      reach,
    ),
    dropouts: joined(
      each.flatMap((d) => d.dropouts),
      0,
    ),
  }
}
