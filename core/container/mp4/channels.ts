import type { Reader } from '../../bytes'

/** Channel layout tags of the `chan` box that are met in delivery work: tag (layout << 16 | channels) → names. */
const byTag: Record<number, string> = {
  [(100 << 16) | 1]: 'C',
  [(101 << 16) | 2]: 'L R',
  [(113 << 16) | 3]: 'L R C',
  [(115 << 16) | 4]: 'L R C Cs',
  [(118 << 16) | 5]: 'L R Ls Rs C',
  [(117 << 16) | 5]: 'L R C Ls Rs',
  [(121 << 16) | 6]: 'L R C LFE Ls Rs',
}

/** Channel labels of a `chan` box with descriptions. */
const byLabel: Record<number, string> = { 1: 'L', 2: 'R', 3: 'C', 4: 'LFE', 5: 'Ls', 6: 'Rs', 9: 'Cs', 42: 'C' }

/** The layout a `chan` box names, channel by channel; null when it says nothing useful. */
export function channelLayout(chan: Reader | undefined, channels: number): string | null {
  if (!chan || chan.left < 16) return null
  chan.skip(4)
  const tag = chan.u32()
  chan.skip(4)
  const n = chan.u32()
  if (tag !== 0) return byTag[tag] ?? null
  if (n !== channels || n * 20 > chan.left) return null
  const names: string[] = []
  for (let i = 0; i < n; i++) {
    names.push(byLabel[chan.u32()] ?? '?')
    chan.skip(16)
  }
  return names.includes('?') ? null : names.join(' ')
}

/** The tag that stands for a layout's names, for writing; null when a description list is needed. */
export function layoutTag(layout: string): number | null {
  for (const [tag, names] of Object.entries(byTag)) if (names === layout) return Number(tag)
  return null
}
