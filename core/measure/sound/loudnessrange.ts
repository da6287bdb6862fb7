import { unheard } from './codedsound'
import { moves } from './moves'
import { inProgramme } from './loudness'
import { said, tenths, type Measure } from '../measure'

/** Loudness range, LU (EBU Tech 3342). */
export const loudnessRange: Measure = {
  name: 'loudness-range',
  label: 'Loudness range',
  group: 'sound',
  unit: ' LU',
  moves: moves.range,
  read({ sound }) {
    if (!sound) return null
    if (sound.coded?.counted) return unheard(sound.coded.channels)
    return sound.range === null
      ? said(null, 'there are no 3 s of sound above −70 LUFS')
      : said(sound.range, `${tenths(sound.range, 'LU')}${inProgramme(sound)}`)
  },
}
