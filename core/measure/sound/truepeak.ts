import { unheard } from './codedsound'
import { moves } from './moves'
import { said, tenths, type Measure } from '../measure'

/** True peak, dBTP (ITU-R BS.1770-5 Annex 2). */
export const truePeak: Measure = {
  name: 'true-peak',
  label: 'True peak',
  group: 'sound',
  unit: ' dBTP',
  moves: moves.peak,
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
