import { ofSound, said } from './measure'

/** Hz. */
export const sampleRate = ofSound('sample-rate', 'Sample rate', (a) => said(a.sampleRate, `${a.sampleRate / 1000} kHz`))
