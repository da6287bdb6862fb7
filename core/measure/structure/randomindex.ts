import { said, type Measure } from '../measure'
import { namedWords } from '../words'

const words = (there: string) => (there === 'true' ? 'at the end of the file' : 'none')

/** Whether an MXF file ends with a list of its partitions (SMPTE ST 377-1 12); false of other files. */
export const randomIndex: Measure = {
  name: 'random-index',
  label: 'Random index pack',
  group: 'structure',
  counts: true,
  read({ described: d }) {
    if (!d) return null
    const there = d.structure ? d.structure.randomIndex : false
    return there === undefined ? null : said(there, words(String(there)))
  },
  words: namedWords(words),
}
