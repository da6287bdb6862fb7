import type { Problem } from '../problem'
import type { Samples } from '../time/rate'

/** Where coded packets of sound lie, in samples; one more place than packets, the end of the last. */
export interface PlacedPackets {
  readonly pts: Float64Array
  readonly durations: Float64Array
  /** Stretches that no packet covers. */
  readonly gaps: readonly { readonly at: Samples; readonly samples: Samples }[]
}

/** Seconds a clock may run ahead of the packets before sound is missing, rather than the clock being coarse. */
const slack = 0.1

/**
 * Places packets one after the other, each as long as its codec makes it. A container's clock is written when packets
 * come, by a coarse or a jittering clock: it places the first one, and those that come after sound that is missing.
 */
export function placePackets(
  count: number,
  sampleRate: number,
  length: (i: number) => Samples,
  clock: (i: number) => Samples,
): PlacedPackets {
  const pts = new Float64Array(count + 1)
  const durations = new Float64Array(count)
  const gaps: { at: Samples; samples: Samples }[] = []
  let at = count > 0 ? clock(0) : 0
  for (let i = 0; i < count; i++) {
    const ahead = clock(i) - at
    if (ahead > slack * sampleRate) {
      gaps.push({ at, samples: ahead })
      at += ahead
    }
    pts[i] = at
    durations[i] = length(i)
    at += durations[i]!
  }
  pts[count] = at
  return { pts, durations, gaps }
}

/** What is said of sound that is missing inside a track; `kept`: whether what follows a gap is at its time. */
export function missingSound(gaps: PlacedPackets['gaps'], sampleRate: number, where: string, kept = true): Problem[] {
  const [first] = gaps
  if (!first) return []
  const seconds = (n: Samples) => (n / sampleRate).toFixed(2)
  const several = gaps.length > 1 ? ` ${gaps.length} stretches, the first` : ''
  return [
    {
      code: 'media.sound-missing',
      message:
        `Sound is missing inside the track:${several} ${seconds(first.samples)} s ` +
        `at ${seconds(first.at)} s; ${kept ? 'it is silent there' : 'what follows comes that much too early'}.`,
      where,
      fix: 'Copy the file again from where it came from, or ask for the recording anew.',
      damage: true,
    },
  ]
}
