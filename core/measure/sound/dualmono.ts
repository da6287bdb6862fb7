import { codedPair } from './codedsound'
import { namedWords, said, type Measure } from '../measure'

const words = (same: string) => (same === 'true' ? 'the same' : 'different')

/** Whether left and right are the same, where both are heard: what they differ by is 60 dB under them. */
export const dualMono: Measure = {
  name: 'dual-mono',
  label: 'Left and right',
  group: 'sound',
  counts: true,
  read({ sound }) {
    if (!sound) return null
    const coded = codedPair(sound)
    if (coded) return coded
    if (sound.correlation === null) return said(null, 'there are no two channels with sound')
    return sound.alike === undefined ? null : said(sound.alike, words(String(sound.alike)))
  },
  words: namedWords(words),
}
