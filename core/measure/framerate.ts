import { rateLabel, rateText } from '../time/rate'
import { ofPictures, said } from './measure'

/** Frames a second. Its value is an exact fraction, `30000/1001`. */
export const frameRate = ofPictures('frame-rate', 'Frame rate', (v) => said(rateText(v.rate), rateLabel(v.rate)), {
  group: 'time',
})
