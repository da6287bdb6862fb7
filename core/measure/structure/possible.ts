import { closedChannels } from '../../codec/sound'
import { routeOf, sourceChannels } from '../../sound/layout'
import { said, type Measure } from '../measure'

/** Whether this machine can make the file at all; else why not, and what to do. */
export const possible: Measure = {
  name: 'possible',
  label: 'Can be made here',
  group: 'structure',
  counts: true,
  stage: 'before',
  read({ obstacles, awaited }) {
    if (!obstacles) return null
    const why = obstacles.map(({ message, fix }) => (fix ? `${message} ${fix}` : message))
    if (why.length === 0 && awaited) return said(null, 'its media is still being held against the checksums beside it')
    if (why.length === 0) return said(true, 'yes')
    return { ...said(false, `no. ${why.join(' ')}`), faults: obstacles.map((o) => `${o.message} (${o.where ?? ''})`) }
  },
  words: () => 'yes',
  // channels that are not there, or are read by nobody, are left out where others are left; mono goes to both of a pair
  fix({ forecast, recipe, media }) {
    if (forecast?.value !== false) return null
    const closed = closedChannels(media.audio)
    const there = sourceChannels(media)
    const route = routeOf(recipe.channels, there)
    const open = route.filter((c) => c < there && !closed.has(c))
    if (open.length === route.length || !open.some((c) => c >= 0)) return null
    if (there === 1 && route.join() === '0,1') return { channels: [1, 1] }
    return { channels: open.map((c) => c + 1) }
  },
}
