import { channelsText, listed } from '../../text'
import { said, tenths, type Measure } from '../measure'
import { isSilent } from './silentchannel'

/**
 * Integrated loudness of each mix beside the programme, LUFS (ITU-R BS.1770-5): all of them are to be as a rule says.
 * Data in the place of sound is no mix.
 */
export const mixesLoudness: Measure = {
  name: 'mixes-loudness',
  label: 'Loudness of other mixes',
  group: 'sound',
  counts: true,
  unit: ' LUFS',
  moves: { coded: 0.1, resampled: 0.01 },
  read({ sound, gain = 0 }) {
    if (!sound) return null
    const data = sound.coded?.channels ?? []
    const untold = sound.untold.filter((c) => !data.includes(c) && !isSilent(sound.peaks[c] ?? null, gain))
    if (untold.length)
      return said(null, `nothing says which mix ${channelsText(untold)} ${untold.length === 1 ? 'is' : 'are'} of`)
    const mixes = sound.others.filter((mix) => !mix.channels.some((c) => data.includes(c)))
    const text = mixes.map(({ channels, integrated }) => {
      const level = integrated === null ? 'under −70 LUFS' : tenths(integrated + gain, 'LUFS')
      return `${level} in ${channelsText(channels)}`
    })
    return said(
      mixes.map(({ integrated }) => (integrated === null ? -Infinity : integrated + gain)),
      listed(text) || 'there are none',
    )
  },
}
