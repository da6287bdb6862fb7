import { createRequire } from 'node:module'
import path from 'node:path'
import type { WebCodecs } from '../../core/codec/web/webcodecs'
import type { Abilities } from '../../core/recipe/output'
import { home } from '../storage/home'

let loaded: WebCodecs | null | undefined

/** The machine's WebCodecs, when the optional package is installed; null when not. */
export function machineCodecs(): WebCodecs | null {
  if (loaded === undefined) {
    try {
      loaded = createRequire(path.join(home(), 'package.json'))('@napi-rs/webcodecs') as WebCodecs
    } catch {
      loaded = null
    }
  }
  return loaded
}

/** Read by our own code, or by the still-image library. */
const plain = ['v210', 'uyvy', 'pcm', 'png', 'jpeg', 'tiff', 'dpx']

let abilities: Promise<Abilities> | undefined

/** What this machine can encode and decode. */
export function machineAbilities(): Promise<Abilities> {
  abilities ??= (async () => {
    const codecs = machineCodecs()
    if (!codecs) return { h264: false, aac: false, decodes: [...plain] }
    const h264 = await codecs.VideoEncoder.isConfigSupported({ codec: 'avc1.640028', width: 1280, height: 720 }).then(
      (s) => s.supported === true,
      () => false,
    )
    const aac = await codecs.AudioEncoder.isConfigSupported({
      codec: 'mp4a.40.2',
      sampleRate: 48000,
      numberOfChannels: 2,
    }).then(
      (s) => s.supported === true,
      () => false,
    )
    return { h264, aac, decodes: [...plain, 'h264', 'hevc', 'vp8', 'vp9', 'av1', 'aac', 'opus', 'flac', 'vorbis'] }
  })()
  return abilities
}
