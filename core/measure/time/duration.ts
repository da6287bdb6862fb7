import { said, type Measure } from '../measure'

/** Seconds. */
export const duration: Measure = {
  name: 'duration',
  label: 'Duration',
  group: 'time',
  unit: ' s',
  read: ({ described: d }) => (d ? said(d.durationSeconds, d.durationText) : null),
}
