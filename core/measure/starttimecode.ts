import { said, wanted, type Measure } from './measure'

export const startTimecode: Measure = {
  name: 'start-timecode',
  label: 'Start timecode',
  group: 'time',
  read: ({ described: d }) => (d?.start ? said(d.start.label) : null),
  fix({ expect }) {
    const start = wanted(expect)
    return typeof start === 'string' && /^\d\d:\d\d:\d\d[:;]\d\d$/.test(start) ? { start } : null
  },
}
