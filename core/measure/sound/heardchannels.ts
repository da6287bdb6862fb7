import { canDownmix } from '../../sound/downmix'
import { layoutTaken, routeOf, sourceChannels } from '../../sound/layout'
import { surroundsIn } from '../../sound/tracks'
import { channelsText } from '../../text'
import { said, type Measure } from '../measure'
import { isSilent } from './silentchannel'

/**
 * Whether sound is in the channels that are written: not in others of the source, not in none, nor in few of many; and
 * whether a front pair is written without the centre of its mix, which has the voices as a rule.
 * Silence that a recipe asks for by name is no channel of the source.
 */
export const heardChannels: Measure = {
  name: 'heard-channels',
  label: 'Channels heard',
  group: 'sound',
  counts: true,
  stage: 'before',
  read({ heard }) {
    if (!heard) return null
    const { route, peaks, surrounds = [], together = false } = heard
    const written = [...new Set(route.filter((c) => c >= 0))]
    if (written.length === 0) return said('as written', 'none is written')
    const loud = peaks.flatMap((p, c) => (isSilent(p) ? [] : [c]))
    const own = written.filter((c) => loud.includes(c))
    const others = loud.filter((c) => !written.includes(c))
    if (own.length === 0 && others.length > 0)
      return said('elsewhere', `none of those written; there is sound in ${channelsText(others)} of the source`)
    if (own.length === 0)
      return said(
        'silent',
        `none: ${channelsText(written)} of the source ${written.length === 1 ? 'is' : 'are'} silent`,
      )
    if (!together && written.length > 2 && own.length <= written.length / 2)
      return { ...said('few', `${channelsText(own)} of ${written.length} written`), which: own.map((c) => c + 1) }
    const bare = surrounds.find(
      (s) => !written.includes(s.centre) && loud.includes(s.centre) && own.some((c) => c === s.left || c === s.right),
    )
    if (bare)
      return said(
        'part',
        `${channelsText(own)} of a mix in surround, without the sound of its centre, ${channelsText([bare.centre])}`,
      )
    return said('as written', channelsText(own))
  },
  words: () => 'sound in more than half of those written',
  fix({ forecast, recipe, media }) {
    if (forecast?.which?.length) return { channels: [...forecast.which] }
    if (forecast?.value !== 'part') return null
    // the whole of the mix, its centre in both
    const route = routeOf(recipe.channels, sourceChannels(media))
    const bare = surroundsIn(media.audio).find((s) => !route.includes(s.centre) && route.includes(s.left))
    const layout = bare && layoutTaken(media.audio, bare.all)
    return layout && canDownmix(layout) ? { channels: bare.all.map((c) => c + 1), downmix: 'stereo' } : null
  },
}
