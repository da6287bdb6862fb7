import { said, tenths, type Measure } from './measure'

/** Integrated loudness, LUFS (ITU-R BS.1770-5). */
export const loudness: Measure = {
  name: 'loudness',
  label: 'Integrated loudness',
  group: 'sound',
  unit: ' LUFS',
  read({ sound, gain = 0 }) {
    if (!sound) return null
    if (sound.integrated === null) return said(-Infinity, 'silence')
    return said(sound.integrated + gain, tenths(sound.integrated + gain, 'LUFS'))
  },
  fix({ expect: e, forecast, recipe }) {
    const now = forecast?.value
    const target = 'target' in e ? e.target : 'max' in e || 'min' in e ? (e.max ?? e.min ?? null) : null
    if (typeof now !== 'number' || !Number.isFinite(now) || target === null) return null
    const gain = Math.round((recipe.gain + target - now) * 10) / 10
    return Math.abs(gain) <= 30 ? { gain } : null
  },
}
