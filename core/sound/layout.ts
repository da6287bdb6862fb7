import type { AudioInfo } from '../media/media'

/** All sound channels of a file, track after track. */
export function sourceChannels(info: { readonly audio: readonly Pick<AudioInfo, 'channels'>[] }): number {
  return info.audio.reduce((n, a) => n + a.channels, 0)
}

/** What channels are where nothing says it, by their count, as EBU R 123 orders them; null where it says nothing. */
export function layoutOf(channels: number): string | null {
  return { 1: 'C', 2: 'L R', 6: 'L R C LFE Ls Rs' }[channels] ?? null
}

/** A channel that is not said to be any. */
export const unnamed = '?'

type Track = Pick<AudioInfo, 'channels' | 'layout'>

/** What each channel of some tracks is said to be, one track after the other. */
function namesIn(tracks: readonly Track[]): string[] {
  const each = tracks.map(({ channels, layout }) => {
    const names = layout?.split(' ') ?? []
    return names.length === channels ? names : Array.from({ length: channels }, () => unnamed)
  })
  // a track that is called a centre, and no other a side of it, is one that is mono
  const sides = each.some(([name, ...more]) => more.length === 0 && name !== 'C' && name !== unnamed)
  return each.flatMap((names) => (names.length === 1 && names[0] === 'C' && !sides ? [unnamed] : names))
}

/**
 * What channels that are taken of some tracks (0-based, −1 is silence) are said to be, in order, `?` where nothing says
 * it: `L R C LFE Ls Rs`; of several mixes one after the other, `L R L R`. Null where nothing is said of any.
 */
export function saidLayout(tracks: readonly Track[], route?: readonly number[]): string | null {
  const names = namesIn(tracks)
  const taken = (route ?? [...names.keys()]).map((c) => names[c] ?? unnamed)
  return taken.some((name) => name !== unnamed) ? taken.join(' ') : null
}

/**
 * What they are taken to be: what they are said to be, else what follows from their count. One is mono and two are a
 * pair, whichever they are taken of.
 */
export function layoutTaken(tracks: readonly Track[], route?: readonly number[]): string | null {
  const count = route?.length ?? sourceChannels({ audio: tracks })
  return (count > 2 ? saidLayout(tracks, route) : null) ?? layoutOf(count)
}

/** Channels that are one another in a mix of two, which may stand beside one of more. */
const sameAs: Readonly<Record<string, string>> = { Lt: 'L', Rt: 'R' }

/** Channels of one mix, by where they stand in a layout, with what each is. */
export type Mix = readonly { readonly at: number; readonly name: string }[]

/**
 * The mixes of a layout, one after the other: where a channel comes again another one begins. What is not named is of
 * none of them, and one by itself.
 */
export function mixesIn(layout: string): Mix[] {
  const out: { at: number; name: string }[][] = []
  let open: { at: number; name: string }[] | null = null
  layout.split(' ').forEach((said, at) => {
    const name = sameAs[said] ?? said
    if (name !== unnamed && open && open.every((c) => c.name !== name)) {
      open.push({ at, name })
      return
    }
    const mix = [{ at, name }]
    out.push(mix)
    if (name !== unnamed) open = mix
  })
  return out
}

/** A layout in a word: `stereo`, `5.1`; `8ch` of several mixes, and where nothing says what it is. */
export function layoutWord(channels: number, layout: string | null): string {
  const few = ['silent', 'mono', 'stereo'][channels]
  if (few) return few
  const [mix, ...more] = layout ? mixesIn(layout) : []
  if (!mix || more.length || mix[0]!.name === unnamed) return `${channels}ch`
  const low = mix.filter((c) => c.name === 'LFE').length
  return `${channels - low}.${low}`
}

/** Where the left and the right of the first mix that has both stand in a layout; the first two where none has. */
export function frontPair(layout: string | null): readonly [number, number] {
  for (const mix of layout ? mixesIn(layout) : []) {
    const [l, r] = ['L', 'R'].map((name) => mix.find((c) => c.name === name))
    if (l && r) return [l.at, r.at]
  }
  return [0, 1]
}

/** Channels of which EBU R 123 has allocations in twos. */
export const inTwos: readonly number[] = [4, 8, 16]

/**
 * Left and right of every mix, from 0, the front pair first; where nothing names channels of 4, 8 or 16, each two of
 * them that EBU R 123 has side by side.
 */
export function pairsIn(channels: number, layout: string | null): (readonly [number, number])[] {
  const front = frontPair(layout)
  const named = (layout ? mixesIn(layout) : []).flatMap((mix) => {
    const [l, r] = ['L', 'R'].map((name) => mix.find((c) => c.name === name))
    return l && r ? [[l.at, r.at] as const] : []
  })
  const names = layout?.split(' ') ?? []
  const bare = (at: number) => (names[at] ?? unnamed) === unnamed
  const twos = Array.from(
    { length: inTwos.includes(channels) ? channels / 2 : 0 },
    (_, i) => [2 * i, 2 * i + 1] as const,
  )
  const others = [...named, ...twos.filter((two) => two.every(bare))]
  return [front, ...others.filter(([l, r]) => l !== front[0] || r !== front[1])]
}

/** As EBU R 123 orders the channels of a mix; others follow. */
const usualOrder = ['L', 'R', 'C', 'LFE', 'Ls', 'Rs']

/** A mix in the order of EBU R 123. */
export function inUsualOrder(mix: Mix): Mix {
  const place = (name: string) => (usualOrder.indexOf(name) + usualOrder.length + 1) % (usualOrder.length + 1)
  return [...mix].sort((a, b) => place(a.name) - place(b.name))
}

const decoderOrder = [...usualOrder, 'Cs']

/** The same channels in the order in which decoders give them; null where that is not known. */
export function asDecoded(layout: string | null): string | null {
  const names = layout?.split(' ') ?? []
  const places = names.map((name) => decoderOrder.indexOf(name)).sort((a, b) => a - b)
  return names.length && places[0]! >= 0 ? places.map((p) => decoderOrder[p]).join(' ') : null
}

/** Which source channels an output has, in its order: all, none, or by number from 1; 0 is silence. */
export type Channels = 'all' | 'none' | readonly number[]

/** Source channels in output order (0-based; −1 is silence). */
export function routeOf(channels: Channels, sourceChannels: number): number[] {
  if (channels === 'none') return []
  if (channels === 'all') return Array.from({ length: sourceChannels }, (_, i) => i)
  return channels.map((c) => c - 1)
}
