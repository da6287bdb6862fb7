import { plural } from '../../text'
import { formatTimecode } from '../../time/timecode'
import { pairsHeard } from './codedsound'
import { placed, said, type Measure } from '../measure'

/** Digital clicks, dropouts and stretches out of phase, counted; where the first is. */
export const soundFaults: Measure = {
  name: 'sound-faults',
  label: 'Clicks, dropouts, phase',
  group: 'sound',
  counts: true,
  places: ({ trouble }) =>
    trouble ? [...trouble.clicks, ...trouble.dropouts, ...trouble.phase].sort((a, b) => a.in - b.in) : [],
  read({ sound, trouble, base }) {
    if (!trouble || !base) return null
    // what is data is not out of phase
    const phase = sound && 'text' in pairsHeard(sound) ? [] : trouble.phase
    const kinds = [
      ['click', 'clicks', trouble.clicks],
      ['dropout', 'dropouts', trouble.dropouts],
      ['stretch out of phase', 'stretches out of phase', phase],
    ] as const
    const all = kinds.flatMap((k) => k[2])
    if (all.length === 0) return said(0, 'none')
    const words = kinds.flatMap(([one, more, list]) => (list.length ? [plural(list.length, one, more)] : []))
    const first = formatTimecode(base.start + Math.min(...all.map((r) => r.in)), base)
    return { ...said(all.length, `${words.join(', ')}, first at ${first}`), ...placed(all, base) }
  },
}
