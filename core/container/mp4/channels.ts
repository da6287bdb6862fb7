import { Writer, type Reader } from '../../bytes'
import { unnamed } from '../../sound/layout'

// Which channel is which, as the `chan` box says it: a tag for a layout, a set of bits, or a label for each channel.

/** Layout tags that are met in delivery work: tag (layout << 16 | channels) → names. */
const byTag: Record<number, string> = {
  [(100 << 16) | 1]: 'C',
  [(101 << 16) | 2]: 'L R',
  [(103 << 16) | 2]: 'Lt Rt',
  [(108 << 16) | 4]: 'L R Ls Rs',
  [(113 << 16) | 3]: 'L R C',
  [(114 << 16) | 3]: 'C L R',
  [(115 << 16) | 4]: 'L R C Cs',
  [(116 << 16) | 4]: 'C L R Cs',
  [(117 << 16) | 5]: 'L R C Ls Rs',
  [(118 << 16) | 5]: 'L R Ls Rs C',
  [(119 << 16) | 5]: 'L C R Ls Rs',
  [(120 << 16) | 5]: 'C L R Ls Rs',
  [(121 << 16) | 6]: 'L R C LFE Ls Rs',
  [(122 << 16) | 6]: 'L R Ls Rs C LFE',
  [(123 << 16) | 6]: 'L C R Ls Rs LFE',
  [(124 << 16) | 6]: 'C L R Ls Rs LFE',
  [(125 << 16) | 7]: 'L R C LFE Ls Rs Cs',
  [(126 << 16) | 8]: 'L R C LFE Ls Rs Lc Rc',
  [(127 << 16) | 8]: 'C Lc Rc L R Ls Rs LFE',
  [(128 << 16) | 8]: 'L R C LFE Ls Rs Rls Rrs',
  [(130 << 16) | 8]: 'L R C LFE Ls Rs Lt Rt',
  [(131 << 16) | 3]: 'L R Cs',
  [(132 << 16) | 4]: 'L R Ls Rs',
  [(133 << 16) | 3]: 'L R LFE',
}
const bitmapTag = 1 << 16
const labelsTag = 0
/** The tag of channels that are not said to be any, less their number. */
const discreteTag = 147 << 16

/** Names by the labels of descriptions. */
const byLabel: Record<number, string> = {
  ...{ 1: 'L', 2: 'R', 3: 'C', 4: 'LFE', 5: 'Ls', 6: 'Rs', 7: 'Lc', 8: 'Rc', 9: 'Cs' },
  ...{ 10: 'Ls', 11: 'Rs', 33: 'Rls', 34: 'Rrs', 38: 'Lt', 39: 'Rt', 42: 'C' },
}
const labelOf = (name: string) => Number(Object.entries(byLabel).find(([, n]) => n === name)?.[0] ?? 0xffffffff)

/** What a `chan` box says of its channels, in order, `?` for what is not known here; none where it names none. */
export function channelNames(chan: Reader): string[] {
  if (chan.left < 16) return []
  chan.skip(4)
  const tag = chan.u32()
  const bits = chan.u32()
  const n = chan.u32()
  const of = (label: number) => byLabel[label] ?? unnamed
  if (tag === bitmapTag) return bitsOf(bits).map((bit) => of(bit + 1))
  if (tag !== labelsTag) return byTag[tag]?.split(' ') ?? []
  if (n * 20 > chan.left) return []
  return Array.from({ length: n }, () => {
    const name = of(chan.u32())
    chan.skip(16)
    return name
  })
}

const bitsOf = (bits: number) => Array.from({ length: 32 }, (_, i) => i).filter((i) => (bits >>> i) & 1)

/** The layout a `chan` box names, channel by channel; null when it does not name them all. */
export function channelLayout(chan: Reader | undefined, channels: number): string | null {
  const names = chan ? channelNames(chan) : []
  return names.length === channels && !names.includes(unnamed) ? names.join(' ') : null
}

/** The fields of a `chan` box: a tag where there is one for the layout, else a label for each channel. */
export function channelFields(channels: number, layout: string | null): Uint8Array {
  const tag = layout && Object.entries(byTag).find(([, names]) => names === layout)?.[0]
  const names = layout?.split(' ') ?? []
  const said = !tag && names.length === channels && names.some((name) => name !== unnamed)
  const w = new Writer().u32(tag ? Number(tag) : said ? labelsTag : discreteTag | channels).u32(0)
  if (!said) return w.u32(0).bytes()
  w.u32(channels)
  // a label, then flags and coordinates, which say nothing
  for (const name of names) w.u32(labelOf(name)).zero(16)
  return w.bytes()
}
