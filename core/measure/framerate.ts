import { rateLabel, rateText } from '../time/rate'
import { ofPictures, said } from './measure'

/** Frames a second. Its value is an exact fraction, `30000/1001`; of frames that last differently long, `variable`. */
export const frameRate = ofPictures(
  'frame-rate',
  'Frame rate',
  (v) =>
    v.constantRate === false
      ? said('variable', `varying, about ${rateLabel(v.rate)}`)
      : said(rateText(v.rate), rateLabel(v.rate)),
  { group: 'time' },
)
