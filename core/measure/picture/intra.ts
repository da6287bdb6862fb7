import { namedWords, ofPictures, said } from '../measure'

const words = (alone: string) => (alone === 'true' ? 'each by itself' : 'in groups that lean on each other')

/** Whether every picture is coded by itself. */
export const intra = ofPictures(
  'intra',
  'Coding of pictures',
  (v) => (v.intra === undefined ? null : said(v.intra, words(String(v.intra)))),
  { counts: true, words: namedWords(words) },
)
