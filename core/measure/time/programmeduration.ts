import { said, type Measure } from '../measure'

/** Seconds of a programme, without its line-up. */
export const programmeDuration: Measure = {
  name: 'programme-duration',
  label: 'Programme duration',
  group: 'time',
  ofSections: true,
  unit: ' s',
  read: ({ lineUp: l }) => (l ? said(l.seconds, l.length) : null),
}
