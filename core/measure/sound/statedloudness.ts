import { said, tenths, type Measure } from '../measure'

/** LU by which two meters may differ that are each as exact as EBU Tech 3341 asks: ±0.1. */
const tolerance = 0.2

/** Whether a file states the loudness that its sound has (`bext` version 2, EBU Tech 3285). */
export const statedLoudness: Measure = {
  name: 'stated-loudness',
  label: 'Stated loudness',
  group: 'sound',
  counts: true,
  stage: 'written',
  read({ stated, sound }) {
    if (!stated) return null
    if (stated.loudness === null) return said('none', 'the file states none')
    const text = tenths(stated.loudness, 'LUFS')
    if (sound && sound.truePeak === null) return said('otherwise', `${text}, and its sound is silence`)
    if (!sound || sound.integrated === null || sound.coded?.counted)
      return said(null, `the file states ${text}, and that of its sound is not known`)
    // a hundredth is what the field can say
    const apart = Math.abs(stated.loudness - sound.integrated) - tolerance - 0.005
    return apart <= 0
      ? said('as measured', `${text}, as measured`)
      : said('otherwise', `${text}, and measured is ${tenths(sound.integrated, 'LUFS')}`)
  },
  words: () => 'none, or as measured',
}
