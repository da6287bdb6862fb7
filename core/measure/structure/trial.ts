import { trialText, type Trial } from '../../recipe/trial'
import { said, type Measure } from '../measure'
import { namedWords } from '../words'

/** Whether it is made to be looked at only: a trial left on is no delivery. */
export const trial: Measure = {
  name: 'trial',
  label: 'Trial',
  group: 'structure',
  counts: true,
  read: ({ trial: of }) => (of === undefined ? null : said(of, trialText(of))),
  words: namedWords((name) => trialText(name as Trial)),
  fix: () => ({ trial: 'no' }),
}
