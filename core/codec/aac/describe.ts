import { Reader } from '../../bytes'
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

/** The DecoderSpecificInfo inside an `esds` payload (ISO/IEC 14496-1 7.2.6); null when there is none. */
export function decoderSpecificInfo(esds: Uint8Array): Uint8Array | null {
  const r = new Reader(esds, 'esds')
  r.skip(4)
  for (let depth = 0; depth < 8 && r.left > 2; depth++) {
    const tag = r.u8()
    let length = 0
    for (let i = 0; i < 4; i++) {
      const b = r.u8()
      length = (length << 7) | (b & 127)
      if (b < 128) break
    }
    if (tag === 3) {
      r.skip(2)
      const flags = r.u8()
      if (flags & 0x80) r.skip(2)
      if (flags & 0x40) r.skip(r.u8())
      if (flags & 0x20) r.skip(2)
    } else if (tag === 4) r.skip(13)
    else if (tag === 5) return r.part(Math.min(length, r.left))
    else r.skip(Math.min(length, r.left))
  }
  return null
}
