import { layoutOf, routeOf, sourceChannels } from '../../sound/layout'
import { said, wanted, type Measure } from '../measure'

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
    if (there < count && route.length < count) return null
    return { channels: Array.from({ length: count }, (_, i) => (route.length >= count ? route[i]! : i) + 1) }
  },
}
