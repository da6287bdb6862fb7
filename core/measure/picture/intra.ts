import { plural } from '../../text'
import { namedWords, said, type Measure } from '../measure'

const words = (alone: string) => (alone === 'true' ? 'each by itself' : 'in groups that lean on each other')

/** Whether every picture is coded by itself: by what each says where it does, else by what the container says. */
export const intra: Measure = {
  name: 'intra',
  label: 'Coding of pictures',
  group: 'picture',
  counts: true,
  read({ described, coded }) {
    const v = described?.video
    if (!v) return null
    const leaning = coded?.leaning ?? null
    if (leaning !== null && v.intra && leaning > 0)
      return said(false, `${plural(leaning, 'picture')} lean on others, though the container says that none does`)
    const alone = leaning === null ? v.intra : leaning === 0
    return alone === undefined ? null : said(alone, words(String(alone)))
  },
  words: namedWords(words),
}
