import { inPair, pairsHeard } from './codedsound'
import { said, type Measure } from '../measure'
import { namedWords } from '../words'

const words = (same: string) => (same === 'true' ? 'the same' : 'different')

/** Whether left and right are the same in any pair in which both are heard: what they differ by is 60 dB under them. */
export const dualMono: Measure = {
  name: 'dual-mono',
  label: 'Left and right',
  group: 'sound',
  counts: true,
  read({ sound }) {
    if (!sound) return null
    const pairs = pairsHeard(sound)
    if ('text' in pairs) return pairs
    const sounding = pairs.filter((p) => p.correlation !== null)
    if (sounding.length === 0) return said(null, 'there are no two channels with sound')
    const same = sounding.find((p) => p.alike)
    return said(same !== undefined, `${words(String(same !== undefined))}${same ? inPair(sound, same) : ''}`)
  },
  words: namedWords(words),
}
