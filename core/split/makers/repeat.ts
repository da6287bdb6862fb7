import { fail } from '../../problem'
import { withSettings, type SplitMaker } from './maker'
import { secondsOf } from '../settings'

/** The region in hand again and again, at a distance. */
export const repeat: SplitMaker = withSettings({
  name: 'repeat',
  label: 'the region in hand, repeated',
  hint: 'The selected region again at a distance, as episodes of one length lie on a reel.',
  settings: {
    every: { kind: 'length', label: 'From each first frame to the next', initial: secondsOf(60), least: 1 },
    times: { kind: 'count', label: 'How often', initial: 0, least: 0, hint: '0: as often as there is room' },
  },
  make({ timeline, region }, { every, times }) {
    if (!region)
      fail('split.no-region', 'No region is selected.', timeline.name, 'Select the one that is to be repeated.')
    const room = Math.floor((timeline.length - region.out) / every)
    const most = Math.min(times || room, room)
    return Array.from({ length: Math.max(0, most) }, (_, i) => ({
      name: region.name && `${region.name} ${i + 2}`,
      in: region.in + (i + 1) * every,
      out: region.out + (i + 1) * every,
    }))
  },
})
