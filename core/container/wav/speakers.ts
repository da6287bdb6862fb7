import { layoutOf } from '../../sound/layout'

// Which channel is which, as the speaker mask of WAVEFORMATEXTENSIBLE says it: channels stand in the order of its bits.

/** Names by bit. Those behind are the surrounds where there are none at the sides (bits 9 and 10). */
const names = ['L', 'R', 'C', 'LFE', 'Rls', 'Rrs', 'Lc', 'Rc', 'Cs', 'Ls', 'Rs']
const behind: Readonly<Record<string, string>> = { Rls: 'Ls', Rrs: 'Rs' }
const anyName = 32

/** The layout that a mask names, channel by channel; null when it does not name them all. */
export function maskLayout(mask: number, channels: number): string | null {
  const set = Array.from({ length: anyName }, (_, i) => i).filter((i) => (mask >>> i) & 1)
  if (set.length !== channels || set.some((i) => names[i] === undefined)) return null
  const there = set.map((i) => names[i]!)
  return there.map((name) => (there.includes('Ls') ? name : (behind[name] ?? name))).join(' ')
}

/** The mask of a layout; 0, which says nothing, where channels stand in another order, or more than once. */
export function layoutMask(channels: number, layout = layoutOf(channels)): number {
  const said = layout?.split(' ') ?? []
  const back = said.includes('Rls')
    ? said
    : said.map((name) => Object.entries(behind).find(([, n]) => n === name)?.[0] ?? name)
  const bits = back.map((name) => names.indexOf(name))
  const fits = bits.length === channels && bits.every((b, i) => b > (bits[i - 1] ?? -1))
  return fits ? bits.reduce((mask, b) => mask | (1 << b), 0) : 0
}
