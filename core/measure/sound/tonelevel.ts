import { frontPair } from '../../sound/layout'
import { grouped } from '../../group'
import { channelsText, listed } from '../../text'
import { tenths, said, wanted, type Measure } from '../measure'
import { isSilent } from './silentchannel'

/**
 * Peak of the tone in front of a programme, dBFS: 0 is a full-scale sine (EBU R 68). Of every channel that has one, and
 * of left and right, which are to have one if any channel has.
 */
export const toneLevel: Measure = {
  name: 'tone-level',
  label: 'Line-up tone',
  group: 'sound',
  counts: true,
  unit: ' dBFS',
  read({ lineUp: l, layout = null }) {
    if (!l) return null
    if (!l.tones) return said(null, 'not all channels of its sound are read')
    const { tones } = l
    if (tones.every((peak) => isSilent(peak))) return said(null, 'there is none')
    const front = frontPair(layout)
    const levels = tones.flatMap((peak, channel) => {
      if (!isSilent(peak)) return [{ channel, peak: peak!, text: tenths(peak!, 'dBFS') }]
      return front.includes(channel) ? [{ channel, peak: -Infinity, text: 'none' }] : []
    })
    const groups = [...grouped(levels, (x) => x.text)]
    const texts = groups.map(([text, of]) => `${text} in ${channelsText(of.map((x) => x.channel))}`)
    return said(
      levels.map((x) => x.peak),
      groups.length === 1 && levels.length === tones.length ? groups[0]![0] : listed(texts),
    )
  },
  fix({ expect }) {
    const level = 'target' in expect ? expect.target : wanted(expect)
    return level === -18 || level === -20 ? { lineUp: level } : null
  },
}
