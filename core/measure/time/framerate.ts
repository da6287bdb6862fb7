import { parseRate, rateLabel, rates, rateText, sameRate, type Rate } from '../../time/rate'
import { ofPictures, said } from '../measure'
import { asFraction, namedWords } from '../words'

/** A rate in words; one that is not of ST 12-1 with its fraction, since its label may read as another's. */
const text = (r: Rate) => (rates.some((x) => sameRate(x, r)) ? rateLabel(r) : `${rateLabel(r)} (${rateText(r)})`)

const named = (value: string) => {
  const rate = parseRate(value)
  return rate ? text(rate) : value
}

/** Frames a second. Its value is an exact fraction, `30000/1001`; of frames that last differently long, `variable`. */
export const frameRate = ofPictures(
  'frame-rate',
  'Frame rate',
  (v) =>
    v.rateStated === false
      ? said(null, 'not told by the files')
      : v.constantRate === false
        ? said('variable', `varying, about ${rateLabel(v.rate)}`)
        : said(rateText(v.ownRate ?? v.rate), text(v.ownRate ?? v.rate)),
  { group: 'time', words: namedWords(named), means: asFraction },
)
