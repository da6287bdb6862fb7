import { codedPair } from './codedsound'
import { said, type Measure } from '../measure'

/** Correlation of left and right, −1 to 1. */
export const phase: Measure = {
  name: 'phase',
  label: 'Phase correlation',
  group: 'sound',
  places: ({ trouble }) => trouble?.phase ?? [],
  read({ sound }) {
    if (!sound) return null
    const coded = codedPair(sound)
    if (coded) return coded
    if (sound.correlation === null) return said(null, 'there are no two channels with sound')
    return said(sound.correlation, sound.correlation.toFixed(2).replace('-', '−'))
  },
}
