import { listed } from '../../text'
import { said, type Measure } from '../measure'

/**
 * Whether sound that is made stays within full scale: a gain, or several events on one another, may drive it beyond,
 * where samples of whole numbers are cut off. What is copied stays as it is.
 */
export const fullScale: Measure = {
  name: 'full-scale',
  label: 'Full scale',
  group: 'sound',
  counts: true,
  stage: 'before',
  read({ driven }) {
    if (!driven) return null
    if (driven === 'copied') return said('within', 'copied as it is')
    const over = driven.flatMap((p, c) => (p !== null && p > 0 ? [{ p, c }] : []))
    if (over.length === 0) return said('within', 'no sample is beyond it')
    const most = Math.max(...over.map((x) => x.p))
    const names = listed(over.map(({ c }) => String(c + 1)))
    const by = Math.max(0.1, Math.ceil(most * 10) / 10).toFixed(1)
    return {
      ...said(
        'beyond',
        `${over.length === 1 ? 'channel' : 'channels'} ${names} up to ${by} dB beyond it, cut off there`,
      ),
      over: most,
    }
  },
  words: () => 'no sample beyond it',
  fix: ({ forecast, recipe }) =>
    forecast?.over === undefined ? null : { gain: Math.floor((recipe.gain - forecast.over) * 10) / 10 },
}
