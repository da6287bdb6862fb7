import { colourText, colourValue } from '../../media/colour'
import { ofPictures, said, type Measure } from '../measure'
import { namedWords } from '../words'

/** Colour as a file describes it: code points of ITU-T H.273, `1/1/1`, with `full` behind for full range. */
export const colour = ofPictures(
  'colour',
  'Colour description',
  (v) => (v.colour === undefined ? null : said(v.colour ? colourValue(v.colour) : 'none', colourText(v.colour))),
  { words: namedWords(named) },
)

/** What a value says, in words. */
function named(value: string): string {
  const [, primaries, transfer, matrix, full] = /^(\d+)\/(\d+)\/(\d+)( full)?$/.exec(value) ?? []
  if (primaries === undefined) return value === 'none' ? colourText(null) : value
  return colourText({
    ...{ primaries: Number(primaries), transfer: Number(transfer), matrix: Number(matrix) },
    fullRange: full !== undefined,
  })
}

/** Whether a written file describes its colour as it was to be. */
export const colourKept: Measure = {
  name: 'colour-kept',
  label: 'Colour kept',
  group: 'picture',
  counts: true,
  stage: 'written',
  ends: true,
  read({ colours: c }) {
    if (!c) return null
    const code = (x: typeof c.written) => (x ? colourValue(x) : 'none')
    return code(c.written) === code(c.asked)
      ? said(true, colourText(c.written))
      : said(false, `${colourText(c.written)} where ${colourText(c.asked)} was asked for`)
  },
  words: () => 'as asked for',
}
