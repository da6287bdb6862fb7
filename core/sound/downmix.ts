import { mixesIn } from './layout'

/** What the channels of a mix are brought together to. */
export type DownmixTo = 'stereo' | 'mono'

/** A mix, by what its channels are, that is brought together to fewer. */
export interface Downmix {
  readonly to: DownmixTo
  readonly from: string
}

const half = Math.SQRT1_2

/** What each channel gives to each of the downmix (ITU-R BS.775-4, table 2); the LFE is left out. */
const shares: Readonly<Record<DownmixTo, Readonly<Record<string, readonly number[]>>>> = {
  stereo: { L: [1, 0], R: [0, 1], C: [half, half], Ls: [half, 0], Rs: [0, half], LFE: [0, 0] },
  mono: { L: [half], R: [half], C: [1], Ls: [0.5], Rs: [0.5], LFE: [0] },
}

/** How loud a side of stereo could be, all that it is made of at full scale. */
export const mostOfStereo = 1 + 2 * half

/** Channels of a downmix. */
export const downmixChannels = (to: DownmixTo): number => shares[to].L!.length

/** Whether a layout is one mix of channels that have a share in a downmix. */
export function canDownmix(layout: string): boolean {
  const [mix, ...more] = mixesIn(layout)
  return more.length === 0 && mix!.every(({ name }) => name in shares.stereo)
}

/** Brings the channels of a mix, in its order, together; samples beyond full scale stay so. */
export function downmixed(channels: readonly Float32Array[], { to, from }: Downmix): Float32Array[] {
  const each = from.split(' ').map((name) => shares[to][name]!)
  const count = channels[0]?.length ?? 0
  return Array.from({ length: downmixChannels(to) }, (_, i) => {
    const out = new Float32Array(count)
    each.forEach((share, c) => {
      const [by, channel] = [share[i]!, channels[c]!]
      if (by !== 0) for (let n = 0; n < count; n++) out[n]! += by * channel[n]!
    })
    return out
  })
}
