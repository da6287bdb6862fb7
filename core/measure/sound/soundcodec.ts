import { codecLabel, soundNames } from '../../codec/registry'
import { inWords, ofSound, said } from '../measure'

export const soundCodec = ofSound('sound-codec', 'Sound codec', (a) => said(a.codec, codecLabel(a.codec)), {
  ...inWords(soundNames, codecLabel),
})
