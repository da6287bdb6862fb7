import { inTwos, layoutOf, mixesIn, unnamed } from '../sound/layout'

// Which channels of some sound make a mix, and how loudness weighs them.

/** Mixes: channels from 0, in order. */
export interface Mixes {
  /** The one that is the programme, which loudness is of. */
  readonly programme: readonly number[]
  readonly others: readonly (readonly number[])[]
  /** Channels of which nothing says what mix they are of. */
  readonly untold: readonly number[]
}

/** What each channel is taken to be. */
function namesOf(channels: number, layout: string | null): string[] {
  const names = layout ?? (channels === 5 ? 'L R C Ls Rs' : layoutOf(channels))
  return names?.split(' ') ?? Array.from({ length: channels }, () => unnamed)
}

/** How many channels in front nobody names: they are a mix by themselves. */
function unnamedInFront(names: readonly string[]): number {
  const first = names.findIndex((name) => name !== unnamed)
  return first < 0 ? names.length : first
}

/**
 * The mixes of sound. Of several (`L R L R`) the first is the programme. Where nothing says which channel is which,
 * they are as EBU R 123 orders them: of 4, 8 or 16 channels the first two are the programme.
 */
export function mixesOf(channels: number, layout: string | null): Mixes {
  const names = namesOf(channels, layout)
  const front = unnamedInFront(names)
  const named = mixesIn(names.join(' '))
    .filter(([first]) => first!.name !== unnamed)
    .map((mix) => mix.map((c) => c.at))
  const bare = Array.from({ length: inTwos.includes(front) ? 2 : front }, (_, i) => i)
  const [programme = [], ...others] = front > 0 ? [bare, ...named] : named
  const told = [programme, ...others].flat()
  return { programme, others, untold: [...names.keys()].filter((i) => !told.includes(i)) }
}

/** Gains other than 1: at the sides, between 60 and 120 degrees, and of what is left out. */
const gainsApart: Readonly<Record<string, number>> = { Ls: 1.41, Rs: 1.41, LFE: 0 }

/** Gains of all channels for the loudness of a mix (BS.1770-5 table 3): surrounds 1.41, LFE left out; of others 0. */
export function mixGains(channels: number, layout: string | null, mix: readonly number[]): number[] {
  const names = namesOf(channels, layout)
  const bare = unnamedInFront(names)
  // those in front that nobody names are taken as so many by themselves are
  const taken = bare > 0 && bare < channels ? [...namesOf(bare, null), ...names.slice(bare)] : names
  return taken.map((name, at) => (mix.includes(at) ? (gainsApart[name] ?? 1) : 0))
}

/** Gains of all channels for the loudness of the programme. */
export const channelGains = (channels: number, layout: string | null = null): number[] =>
  mixGains(channels, layout, mixesOf(channels, layout).programme)
