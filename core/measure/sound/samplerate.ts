import { namedWords, ofSound, said, wanted } from '../measure'

const kilohertz = (hertz: number) => `${hertz / 1000} kHz`

/** Hz. */
export const sampleRate = ofSound('sample-rate', 'Sample rate', (a) => said(a.sampleRate, kilohertz(a.sampleRate)), {
  words: namedWords((v) => kilohertz(Number(v))),
  fix({ expect }) {
    const hertz = wanted(expect)
    return hertz === 44100 || hertz === 48000 || hertz === 96000 ? { sampleRate: hertz } : null
  },
})
