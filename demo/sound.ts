import { makeRate } from '../core/time/rate'
import { soundMeter } from '../core/analysis/sound'

/** How a stretch of sound is made: the notes it plays, how loud, and what is wrong with it. */
export interface SoundStretch {
  readonly samples: number
  /** Hz; none is silence. */
  readonly notes: readonly number[]
  /** LUFS of the programme pair. */
  readonly loudness: number
  readonly fault?: 'out-of-phase' | 'silent-right' | 'peaks' | undefined
  /** A steady line-up tone instead of music. */
  readonly tone?: boolean
}

const rate = 48000

/** A small tune with the sea under it; the same for the same notes. */
function tune(s: SoundStretch): [Float32Array, Float32Array] {
  const left = new Float32Array(s.samples)
  const right = new Float32Array(s.samples)
  if (s.tone) {
    for (let i = 0; i < s.samples; i++) left[i] = right[i] = Math.sin((2 * Math.PI * s.notes[0]! * i) / rate)
    return [left, right]
  }
  let seed = 7 + s.notes.length
  let low = 0
  const beat = rate * 0.4
  for (let i = 0; i < s.samples; i++) {
    seed = (seed * 1664525 + 1013904223) >>> 0
    low += (seed / 2 ** 32 - 0.5 - low) * 0.04
    const k = Math.floor(i / beat)
    const t = (i - k * beat) / rate
    const f = s.notes[k % s.notes.length]!
    // a film may end within a note
    const end = Math.min(1, (s.samples - i) / 480)
    const pluck = end * Math.exp(-3 * t) * Math.min(1, t * 200, (0.4 - t) * 100)
    const v =
      pluck *
      (Math.sin(2 * Math.PI * f * t) + 0.4 * Math.sin(4 * Math.PI * f * t) + 0.15 * Math.sin(6 * Math.PI * f * t))
    const swell = end * low * (0.9 + 0.4 * Math.sin((2 * Math.PI * i) / (rate * 3)))
    left[i] = v * 0.9 + swell
    right[i] = v * 0.75 + swell * 0.8
  }
  return [left, right]
}

/** Four channels (EBU R 123, 4a): programme left and right, which have the faults, music and effects left and right. */
export function makeSound(stretches: readonly SoundStretch[]): Float32Array[] {
  const total = stretches.reduce((n, s) => n + s.samples, 0)
  const out = Array.from({ length: 4 }, () => new Float32Array(total))
  let at = 0
  for (const s of stretches) {
    if (s.notes.length > 0) {
      const [l, r] = tune(s)
      const effects = r.slice()
      if (s.fault === 'out-of-phase') for (let i = 0; i < l.length; i++) r[i] = -l[i]! * 0.9
      if (s.fault === 'silent-right') r.fill(0)
      const meter = soundMeter({ channels: 2, sampleRate: rate, rate: makeRate(25) }, 'L R')
      meter.feed([l, r])
      const gain = 10 ** ((s.loudness - meter.result().integrated!) / 20)
      for (let i = 0; i < l.length; i++) {
        l[i]! *= gain
        r[i]! *= gain
        effects[i]! *= gain
      }
      // a few short clicks of full level: hardly louder, far over the peak limit
      if (s.fault === 'peaks')
        for (const c of [0.3, 0.6])
          for (let i = 0; i < 24; i++) l[Math.floor(l.length * c) + i] = 0.98 * Math.sin((i * Math.PI) / 2.07)
      for (let i = 0; i < l.length; i++) {
        l[i] = Math.max(-0.999, Math.min(0.999, l[i]!))
        r[i] = Math.max(-0.999, Math.min(0.999, r[i]!))
      }
      out[0]!.set(l, at)
      out[1]!.set(r, at)
      out[2]!.set(
        l.map((v) => v * 0.5),
        at,
      )
      out[3]!.set(
        effects.map((v) => Math.max(-0.999, Math.min(0.999, v)) * 0.5),
        at,
      )
    }
    at += s.samples
  }
  return out
}
