import { channelsText, listed } from '../../text'
import { said, tenths, type Measure } from '../measure'
import { unheard } from './codedsound'
import { moves } from './moves'
import { quiet } from './loudness'
import { isSilent } from './silentchannel'

/**
 * Integrated loudness of each mix beside the programme, LUFS (ITU-R BS.1770-5): all of them are to be as a rule says.
 */
export const mixesLoudness: Measure = {
  name: 'mixes-loudness',
  label: 'Loudness of other mixes',
  group: 'sound',
  counts: true,
  unit: ' LUFS',
  moves: moves.programme,
  read({ sound, gain = 0 }) {
    if (!sound) return null
    // a mix that is coded as data has a loudness that nobody measured
    const { programme, coded } = sound
    const data = programme ? (coded?.channels ?? []).filter((c) => !programme.includes(c)) : []
    if (data.length) return unheard(data)
    const untold = sound.untold.filter((c) => !isSilent(sound.peaks[c] ?? null, gain))
    if (untold.length)
      return said(null, `nothing says which mix ${channelsText(untold)} ${untold.length === 1 ? 'is' : 'are'} of`)
    const each = sound.others.map((mix) => {
      const level = mix.integrated === null ? null : mix.integrated + gain
      return { mix, ...(level === null ? quiet(sound, mix) : said(level, tenths(level, 'LUFS'))) }
    })
    const unknown = each.find(({ value }) => value === null)
    if (unknown) return said(null, unknown.text)
    const texts = each.map(({ mix, text }) => `${text} in ${channelsText(mix.channels)}`)
    return said(
      each.map(({ value }) => Number(value)),
      listed(texts) || 'there are none',
    )
  },
}
