import { tenths, said, wanted, type Measure } from '../measure'

/** Peak of the tone in front of a programme, dBFS: 0 is a full-scale sine (EBU R 68). */
export const toneLevel: Measure = {
  name: 'tone-level',
  label: 'Line-up tone',
  group: 'sound',
  unit: ' dBFS',
  read({ lineUp: l }) {
    if (!l) return null
    return l.tone === null ? { value: null, text: 'there is none' } : said(l.tone, tenths(l.tone, 'dBFS'))
  },
  fix({ expect }) {
    const level = 'target' in expect ? expect.target : wanted(expect)
    return level === -18 || level === -20 ? { lineUp: level } : null
  },
}
