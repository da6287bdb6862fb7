import { BitReader } from '../../bits'
import type { Samples } from '../../time/rate'

const sampleRates = [96000, 88200, 64000, 48000, 44100, 32000, 24000, 22050, 16000, 12000, 11025, 8000, 7350]

/** The object types of spectral band replication and of parametric stereo (ISO/IEC 14496-3 table 1.17). */
const [bandReplication, parametricStereo] = [5, 29]
/** What begins the extensions that older decoders do not read (1.6.2.1, syncExtensionType). */
const [syncReplication, syncStereo] = [0x2b7, 0x548]

export interface AacParameters {
  readonly objectType: number
  /** Hz, of what is heard. */
  readonly sampleRate: number
  /** Of what is heard; zero when the channel configuration is given in the stream. */
  readonly channels: number
  /** Samples of a packet that are heard. */
  readonly packetSamples: Samples
  /** What the coded core has: half the rate where bands are replicated, one channel where stereo is parametric. */
  readonly core: { readonly sampleRate: number; readonly channels: number }
}

/** AudioSpecificConfig (ISO/IEC 14496-3 1.6.2.1). */
export function parseAudioSpecificConfig(bytes: Uint8Array): AacParameters | null {
  if (bytes.length < 2) return null
  const r = new BitReader(bytes)
  const objectType = readType(r)
  const coreRate = readRate(r)
  const configuration = r.u(4)
  const channels = configuration === 7 ? 8 : configuration
  const explicit = objectType === bandReplication || objectType === parametricStereo
  let heardRate = coreRate
  let stereo = objectType === parametricStereo
  if (explicit) {
    heardRate = readRate(r)
    readType(r)
  }
  const short = r.flag()
  if (!explicit && channels > 0) {
    if (r.flag()) r.skip(14)
    r.skip(1)
    if (r.left >= 16 && r.u(11) === syncReplication && readType(r) === bandReplication && r.flag()) {
      heardRate = readRate(r)
      stereo = r.left >= 12 && r.u(11) === syncStereo && r.flag()
    }
  }
  if (coreRate <= 0 || heardRate <= 0) return null
  return {
    objectType,
    sampleRate: heardRate,
    channels: stereo && channels === 1 ? 2 : channels,
    packetSamples: ((short ? 960 : 1024) * heardRate) / coreRate,
    core: { sampleRate: coreRate, channels },
  }
}

function readType(r: BitReader): number {
  const type = r.u(5)
  return type === 31 ? 32 + r.u(6) : type
}

function readRate(r: BitReader): number {
  const index = r.u(4)
  return index === 15 ? r.u(24) : (sampleRates[index] ?? 0)
}
