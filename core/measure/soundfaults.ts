import type { Samples } from '../time/rate'
import type { Measure } from './measure'

export interface SampleRange { readonly in: Samples, readonly out: Samples }

/** Stretches of sound that a person should listen to. Samples count from the first one fed. */
export interface SoundFaults {
  /** Every channel under −60 dBFS for half a second or more. */
  readonly silence: readonly SampleRange[]
  /** Single samples that stand out of what is around them: digital clicks. */
  readonly clicks: readonly SampleRange[]
  /** Zeroes in the middle of sound, of half a millisecond to half a second. */
  readonly dropouts: readonly SampleRange[]
  /** The first two channels work against each other (correlation under −0.5) for a second or more. */
  readonly phase: readonly SampleRange[]
}

const quiet = 0.001
const reach = 64
const mostKept = 5000

/** Finds silence, digital clicks, dropouts and sound out of phase in one pass, the same however the sound is cut into blocks. */
export function soundFaults(channels: number, sampleRate: number): Measure<readonly Float32Array[], SoundFaults> {
  const window = Math.round(sampleRate / 10)
  const silence: SampleRange[] = []
  const clicks: SampleRange[] = []
  const dropouts: SampleRange[] = []
  const phase: SampleRange[] = []
  let fed = 0
  /** The tenth of a second in hand. */
  let [inWindow, loudest, left, right, cross] = [0, 0, 0, 0, 0]
  let silentFrom = -1
  let phaseFrom = -1
  const add = (list: SampleRange[], r: SampleRange, joined: Samples) => {
    const last = list.at(-1)
    if (last && r.in - last.out <= joined) list[list.length - 1] = { in: last.in, out: Math.max(last.out, r.out) }
    else if (list.length < mostKept) list.push(r)
  }
  const close = (at: Samples) => {
    if (silentFrom >= 0 && at - silentFrom >= sampleRate / 2) silence.push({ in: silentFrom, out: at })
    if (phaseFrom >= 0 && at - phaseFrom >= sampleRate) phase.push({ in: phaseFrom, out: at })
  }
  function endWindow(at: Samples) {
    const begin = at - inWindow
    if (loudest < quiet) {
      if (silentFrom < 0) silentFrom = begin
    }
    else if (silentFrom >= 0) {
      if (begin - silentFrom >= sampleRate / 2) silence.push({ in: silentFrom, out: begin })
      silentFrom = -1
    }
    const both = Math.sqrt(left * right)
    if (channels >= 2 && both > inWindow * 1e-6 && cross / both < -0.5) {
      if (phaseFrom < 0) phaseFrom = begin
    }
    else if (phaseFrom >= 0) {
      if (begin - phaseFrom >= sampleRate) phase.push({ in: phaseFrom, out: begin })
      phaseFrom = -1
    }
    ;[inWindow, loudest, left, right, cross] = [0, 0, 0, 0, 0]
  }
  const each = Array.from({ length: channels }, () => ({ tail: new Float32Array(0), zeroFrom: -1, before: 0, level: 0 }))

  /** Clicks: a bend of the wave many times larger than those around it. The block is looked at with what came before it. */
  function look(state: (typeof each)[number], block: Float32Array) {
    const x = new Float32Array(state.tail.length + block.length)
    x.set(state.tail)
    x.set(block, state.tail.length)
    const zero = fed - state.tail.length
    const bend = (i: number) => Math.abs(x[i]! - 2 * x[i - 1]! + x[i - 2]!)
    for (let i = reach + 2; i < x.length - reach; i++) {
      const e = bend(i)
      if (e < 0.04) continue
      let [before, after] = [0, 0]
      for (let k = 6; k < reach; k++) {
        before += bend(i - k)
        after += bend(i + k)
      }
      const usual = Math.max(before, after) / (reach - 6)
      if (e > 14 * usual + 0.02) add(clicks, { in: zero + i - 2, out: zero + i + 1 }, reach)
    }
    state.tail = x.slice(Math.max(0, x.length - 2 * reach - 2))
  }

  return {
    feed(input) {
      const n = input[0]?.length ?? 0
      for (let i = 0; i < n; i++) {
        for (let c = 0; c < channels; c++) {
          const v = Math.abs(input[c]![i]!)
          if (v > loudest) loudest = v
        }
        if (channels >= 2) {
          const [l, r] = [input[0]![i]!, input[1]![i]!]
          left += l * l
          right += r * r
          cross += l * r
        }
        if (++inWindow === window) endWindow(fed + i + 1)
      }
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
          }
          else if (state.zeroFrom >= 0) {
            const length = fed + i - state.zeroFrom
            // sound that fades to nothing and begins again is none: it must break off, and go on, at a level
            if (length >= sampleRate / 2000 && length <= sampleRate / 2 && state.before > 0.004 && v > 0.002) add(dropouts, { in: state.zeroFrom, out: fed + i }, 0)
            state.zeroFrom = -1
          }
          state.level += (v - state.level) * 0.03
        }
        look(state, x)
      }
      fed += n
    },
    result() {
      const open = { silence: [...silence], phase: [...phase] }
      if (inWindow > 0) endWindow(fed)
      close(fed)
      const out = { silence: [...silence], clicks: clicks.filter(c => !dropouts.some(d => c.in < d.out + 4 && c.out > d.in - 4)).sort((a, b) => a.in - b.in), dropouts: [...dropouts].sort((a, b) => a.in - b.in), phase: [...phase] }
      silence.length = open.silence.length
      phase.length = open.phase.length
      return out
    },
  }
}
