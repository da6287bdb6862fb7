import { notTold, ofSound, said, wanted, type Described } from '../measure'
import { namedWords } from '../words'

const kilohertz = (hertz: number) => `${hertz / 1000} kHz`

/** Hz. */
function rateOf(a: NonNullable<Described['audio']>) {
  const text = kilohertz(a.sampleRate)
  return a.untold?.includes('sampleRate') ? said(null, notTold(text)) : said(a.sampleRate, text)
}

export const sampleRate = ofSound('sample-rate', 'Sample rate', rateOf, {
  words: namedWords((v) => kilohertz(Number(v))),
  fix({ expect }) {
    const hertz = wanted(expect)
    return hertz === 44100 || hertz === 48000 || hertz === 96000 ? { sampleRate: hertz } : null
  },
})
