import { unheard } from './codedsound'
import { said, tenths, type Measure } from '../measure'

/**
 * dB that peaks may rise by where each channel is coded in so many kbit/s. Of tones, sweeps and beats in AAC the worst
 * was 6.3 at 32, 5.3 at 64, 4.0 at 96 and 0.1 from 128 on.
 */
const whenCoded = (kilobits: number) => (kilobits >= 128 ? 1 : kilobits >= 80 ? 5 : 7)

/** True peak, dBTP (ITU-R BS.1770-5 Annex 2). */
export const truePeak: Measure = {
  name: 'true-peak',
  label: 'True peak',
  group: 'sound',
  unit: ' dBTP',
  moves: { coded: whenCoded, resampled: 0.3, rounded: 0.01 },
  read({ sound, gain = 0 }) {
    if (!sound) return null
    const { channels } = sound.coded ?? { channels: [] }
    if (channels.length > 0 && channels.length === sound.peaks.length) return unheard(channels)
    if (sound.truePeak === null) return said(-Infinity, 'silence')
    return said(sound.truePeak + gain, tenths(sound.truePeak + gain, 'dBTP'))
  },
  fix({ expect, forecast, recipe }) {
    const now = forecast?.value
    if (typeof now !== 'number' || !('max' in expect) || expect.max === undefined) return null
    const most = expect.max - (forecast?.give?.by ?? 0)
    return { gain: Math.floor((recipe.gain + most - now - 0.05) * 10) / 10 }
  },
}
