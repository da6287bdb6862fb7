import { codecLabel } from '../../codec/registry'
import { namedWords, ofPictures, said } from '../measure'

export const codec = ofPictures('codec', 'Picture codec', (v) => said(v.codec, codecLabel(v.codec)), {
  words: namedWords(codecLabel),
})
