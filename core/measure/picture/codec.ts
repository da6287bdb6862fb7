import { codecLabel, pictureNames } from '../../codec/registry'
import { inWords, ofPictures, said } from '../measure'

export const codec = ofPictures('codec', 'Picture codec', (v) => said(v.codec, codecLabel(v.codec)), {
  ...inWords(pictureNames, codecLabel),
})
