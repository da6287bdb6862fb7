import { plural } from '../../text'
import { said, type Measure } from '../measure'
import { namedWords } from '../words'

const words = (alone: string) => (alone === 'true' ? 'each by itself' : 'in groups that lean on each other')

/** Whether every picture is coded by itself: by what each says where it does, else by what the container says. */
export const intra: Measure = {
  name: 'intra',
  label: 'Coding of pictures',
  group: 'picture',
  ofUnits: true,
  counts: true,
  read({ described, coded }) {
    const v = described?.video
    if (!v) return null
    const leaning = coded?.leaning ?? null
    if (coded?.unread !== undefined) return said(null, coded.unread)
    if (leaning && leaning.frames > 0 && v.intra) {
      const text = `not by themselves: ${plural(leaning.frames, 'picture')}`
      // which of them a file takes is not known
      if (coded?.ofSource) return said(null, `${text} of the source, though its container says each is`)
      return said(false, `${text}, though the container says each is`)
    }
    if (leaning && leaning.frames === 0 && leaning.untold > 0)
      return said(null, `not told by ${plural(leaning.untold, 'picture')}`)
    const alone = leaning ? leaning.frames === 0 : v.intra
    return alone === undefined ? null : said(alone, words(String(alone)))
  },
  words: namedWords(words),
}
