import { BitReader } from '../../bits'

const sampleRates = [96000, 88200, 64000, 48000, 44100, 32000, 24000, 22050, 16000, 12000, 11025, 8000, 7350]

export interface AacParameters {
  readonly objectType: number
  readonly sampleRate: number
  /** Zero when the channel configuration is given in the stream. */
  readonly channels: number
}

/** AudioSpecificConfig (ISO/IEC 14496-3 1.6.2.1). */
export function parseAudioSpecificConfig(bytes: Uint8Array): AacParameters | null {
  if (bytes.length < 2) return null
  const r = new BitReader(bytes)
  let objectType = r.u(5)
  if (objectType === 31) objectType = 32 + r.u(6)
  const index = r.u(4)
  const sampleRate = index === 15 ? r.u(24) : (sampleRates[index] ?? 0)
  const configuration = r.u(4)
  const channels = configuration === 7 ? 8 : configuration
  return sampleRate > 0 ? { objectType, sampleRate, channels } : null
}
