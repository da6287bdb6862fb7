import { routeOf, sourceChannels } from '../../sound/layout'
import type { Measure } from '../measure'

/** dBFS under which a channel that never rises above it is silent. */
const silence = -60

/** Whether a channel's peak, dBFS, is that of silence; null is none at all. */
export const isSilent = (peak: number | null, gain = 0): boolean => peak === null || peak + gain < silence

/** Channels that never pass −60 dBFS, counted. */
export const silentChannel: Measure = {
  name: 'silent-channel',
  label: 'Silent channels',
  group: 'sound',
  counts: true,
  read({ sound, gain = 0 }) {
    if (!sound) return null
    const which = sound.peaks.flatMap((p, i) => (isSilent(p, gain) ? [i + 1] : []))
    const text = which.length === 0 ? 'none' : `${which.length === 1 ? 'channel' : 'channels'} ${which.join(', ')}`
    return { value: which.length, text, which, faults: which.map((c) => `channel ${c}`) }
  },
  // programme sound on one leg only: the leg that has it serves both
  fix({ forecast, source, recipe, media }) {
    const which = (forecast ?? source)?.which ?? []
    const route = routeOf(recipe.channels, sourceChannels(media))
    if (which.length !== 1 || route.length !== 2 || recipe.downmix !== 'none') return null
    const other = route[which[0] === 1 ? 1 : 0]! + 1
    return { channels: [other, other] }
  },
}
