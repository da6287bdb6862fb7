import { codecLabel } from '../../codec/registry'
import { namedWords, ofSound, said } from '../measure'

export const soundCodec = ofSound('sound-codec', 'Sound codec', (a) => said(a.codec, codecLabel(a.codec)), {
  words: namedWords(codecLabel),
})
