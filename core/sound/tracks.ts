import type { AudioInfo } from '../media/media'
import { layoutOf, mixesIn, unnamed } from './layout'

// The sound tracks of a file: their channels are counted one track after the other.

/** Channels that stand together, from one of all on. */
export interface Placed {
  readonly first: number
  readonly channels: number
}

export const isIn = ({ first, channels }: Placed, channel: number) => channel >= first && channel < first + channels

/** Tracks with the first channel of each. */
export function placed<T extends { readonly channels: number }>(tracks: readonly T[]): (T & Placed)[] {
  let first = 0
  return tracks.map((t) => {
    const at = { ...t, first }
    first += t.channels
    return at
  })
}

/** The tracks that a route takes from (0-based channels, −1 silence). */
export function tracksTaken(audio: readonly AudioInfo[], route: readonly number[]): readonly AudioInfo[] {
  const places = placed(audio)
  return audio.filter((_, i) => route.some((c) => isIn(places[i]!, c)))
}

/** The sample rate of sound: that of most of its channels, of several the first; 48 kHz where there is none. */
export function soundRate(audio: readonly Pick<AudioInfo, 'channels' | 'sampleRate'>[]): number {
  const channelsAt = (rate: number) => audio.reduce((n, t) => n + (t.sampleRate === rate ? t.channels : 0), 0)
  const rates = audio.map((t) => t.sampleRate)
  return rates.reduce((best, r) => (channelsAt(r) > channelsAt(best) ? r : best), rates[0] ?? 48_000)
}

/** Channels of a mix in surround: its front pair, and the centre between them. */
export interface Surround {
  readonly left: number
  readonly right: number
  readonly centre: number
  readonly all: readonly number[]
}

/** The mixes in surround among tracks: those that say so, and tracks of six channels, in the order of EBU R 123. */
export function surroundsIn(audio: readonly AudioInfo[]): Surround[] {
  return placed(audio).flatMap(({ first, channels, layout }) => {
    const names = layout ?? (channels === 6 ? layoutOf(6)! : unnamed)
    return mixesIn(names).flatMap((mix) => {
      const [left, right, centre] = ['L', 'R', 'C'].map((name) => mix.find((c) => c.name === name))
      if (!left || !right || !centre) return []
      const all = mix.map((c) => first + c.at)
      return [{ left: first + left.at, right: first + right.at, centre: first + centre.at, all }]
    })
  })
}
