import { inPair, pairsHeard } from './codedsound'
import { said, type Measure } from '../measure'

/** Correlation of left and right, −1 to 1; of several pairs the lowest. */
export const phase: Measure = {
  name: 'phase',
  label: 'Phase correlation',
  group: 'sound',
  places: ({ trouble }) => trouble?.phase ?? [],
  read({ sound }) {
    if (!sound) return null
    const pairs = pairsHeard(sound)
    if ('text' in pairs) return pairs
    const least = Math.min(...pairs.map((p) => p.correlation ?? Infinity))
    const worst = pairs.find((p) => p.correlation === least)
    if (!worst) return said(null, 'there are no two channels with sound')
    return said(least, `${least.toFixed(2).replace('-', '−')}${inPair(sound, worst)}`)
  },
}
