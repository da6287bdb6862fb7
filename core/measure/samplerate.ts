import { ofSound, said, wanted } from './measure'

/** Hz. */
export const sampleRate = ofSound(
  'sample-rate',
  'Sample rate',
  (a) => said(a.sampleRate, `${a.sampleRate / 1000} kHz`),
  {
    fix({ expect }) {
      const hertz = wanted(expect)
      return hertz === 44100 || hertz === 48000 || hertz === 96000 ? { sampleRate: hertz } : null
    },
  },
)
