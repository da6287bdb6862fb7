import type { MixFacts, SoundFacts } from '../../analysis/soundfacts'
import { channelsText } from '../../text'
import { unheard } from './codedsound'
import { moves } from './moves'
import { said, tenths, type Measure } from '../measure'

/** Whether nothing at all is in the channels of a mix. */
const isEmpty = ({ truePeak, peaks }: SoundFacts, mix: readonly number[] | undefined) =>
  truePeak === null || (mix?.every((c) => (peaks[c] ?? null) === null) ?? false)

const tooShort = 'it is shorter than the 0.4 s loudness is measured over'

/** What is no figure of a mix: silence, sound under the gate of −70 LUFS, or too short for one block of 0.4 s. */
export function quiet(sound: SoundFacts, { channels, momentaryMax }: Partial<MixFacts>) {
  if (isEmpty(sound, channels)) return said(-Infinity, 'silence')
  return momentaryMax === null ? said(null, tooShort) : said(-Infinity, 'under −70 LUFS')
}

/** What loudness is of, behind its figure, where some channels are of other mixes, or of none. */
export const inProgramme = ({ programme }: SoundFacts): string => (programme ? ` in ${channelsText(programme)}` : '')

/** A loudness of the loudest stretch of a length; `missing` says why there is no figure of sound that is heard. */
export function ofLoudness(
  name: string,
  label: string,
  of: (sound: SoundFacts) => number | null,
  missing: string,
): Measure {
  return {
    ...{ name, label, group: 'sound', unit: ' LUFS', moves: moves.stretch },
    read({ sound, gain = 0 }) {
      if (!sound) return null
      if (sound.coded?.counted) return unheard(sound.coded.channels)
      const value = of(sound)
      if (value !== null) return said(value + gain, `${tenths(value + gain, 'LUFS')}${inProgramme(sound)}`)
      return isEmpty(sound, sound.programme) ? said(-Infinity, 'silence') : said(null, missing)
    },
  }
}

/** Integrated loudness, LUFS (ITU-R BS.1770-5). */
export const loudness: Measure = {
  name: 'loudness',
  label: 'Integrated loudness',
  group: 'sound',
  unit: ' LUFS',
  moves: moves.programme,
  read({ sound, gain = 0 }) {
    if (!sound) return null
    if (sound.coded?.counted) return unheard(sound.coded.channels)
    if (sound.integrated === null) return quiet(sound, { ...sound, channels: sound.programme })
    const value = sound.integrated + gain
    return said(value, `${tenths(value, 'LUFS')}${inProgramme(sound)}`)
  },
  fix({ expect: e, forecast, recipe }) {
    const now = forecast?.value
    const target = 'target' in e ? e.target : 'max' in e || 'min' in e ? (e.max ?? e.min ?? null) : null
    if (typeof now !== 'number' || !Number.isFinite(now) || target === null) return null
    const gain = Math.round((recipe.gain + target - now) * 10) / 10
    return Math.abs(gain) <= 30 ? { gain } : null
  },
}
