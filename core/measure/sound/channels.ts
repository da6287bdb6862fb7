import type { AudioInfo } from '../../media/media'
import { canDownmix } from '../../sound/downmix'
import { layoutOf, routeOf, saidLayout, sourceChannels } from '../../sound/layout'
import { surroundsIn } from '../../sound/tracks'
import { said, wanted, type Measure } from '../measure'

/** Whether channels are known to be one mix of more than two, which can be brought together. */
function isMix(audio: readonly AudioInfo[], route: readonly number[]): boolean {
  const layout = saidLayout(audio, route)
  const surround = surroundsIn(audio).some(({ all }) => route.join() === all.join())
  return route.length > 2 && (layout ? canDownmix(layout) : surround)
}

export const channels: Measure = {
  name: 'channels',
  label: 'Channels',
  group: 'sound',
  counts: true,
  read({ described: d }) {
    if (!d) return null
    if (!d.audio) return said(0, 'none')
    const { channels, layout } = d.audio
    const taken = layoutOf(channels)
    // of more than two it matters which is which
    const text = layout ?? (taken && channels > 2 ? `not named, taken as ${taken}` : taken)
    return said(channels, `${channels}${text ? ` (${text})` : ''}`)
  },
  fix({ expect, recipe, media }) {
    const count = wanted(expect)
    if (typeof count !== 'number' || count < 1) return null
    const there = sourceChannels(media)
    const route = routeOf(recipe.channels, there)
    if (count < 3 && isMix(media.audio, route)) return { downmix: count === 1 ? 'mono' : 'stereo' }
    if (there < count && route.length < count) return null
    return {
      ...(recipe.downmix === 'none' ? {} : { downmix: 'none' as const }),
      channels: Array.from({ length: count }, (_, i) => (route.length >= count ? route[i]! : i) + 1),
    }
  },
}
