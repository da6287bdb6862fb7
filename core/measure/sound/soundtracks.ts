import { plural } from '../../text'
import { said, type Measure } from '../measure'

/** In how many tracks the channels are: broadcasters take one for each channel, others one for all. */
export const soundTracks: Measure = {
  name: 'sound-tracks',
  label: 'Sound tracks',
  group: 'sound',
  counts: true,
  read({ described: d }) {
    if (!d) return null
    if (!d.audio) return said(0, 'none')
    const tracks = d.audio.tracks ?? 1
    return said(tracks, [plural(tracks, 'track'), ...(d.audio.silenced ? [d.audio.silenced] : [])].join(', '))
  },
}
