import { parseRate, rateLabel, rateText } from '../../time/rate'
import { said, type Measure } from '../measure'
import { asFraction, namedWords } from '../words'

const named = (value: string) => {
  const rate = parseRate(value)
  return rate ? rateLabel(rate) : value
}

/** The rate that a file's timecode counts at: an exact fraction, `25/1`. */
export const timecodeRate: Measure = {
  name: 'timecode-rate',
  label: 'Timecode rate',
  group: 'time',
  read: ({ described: d }) => (d?.start?.rate ? said(rateText(d.start.rate), rateLabel(d.start.rate)) : null),
  words: namedWords(named),
  means: asFraction,
}
