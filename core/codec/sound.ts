import type { AudioTrack, Media } from '../media/media'
import { fail } from '../problem'
import type { SoundSource, TrackReader } from './codec'
import { labels, soundCodec, soundCodecs } from './registry'
import type { WebCodecs } from './web/webcodecs'

/** Whether all sound of a file can be read here as one. */
export function canDecodeSound({ audio }: Pick<Media, 'audio'>, codecs: WebCodecs | null): boolean {
  const known = audio.map((t) => soundCodec(t.info.codec))
  const rates = new Set(audio.map((t) => t.info.sampleRate))
  return rates.size <= 1 && known.every((c) => c !== null && (!c.decode.needsWeb || codecs !== null))
}

/** A source over all sound tracks of a file. Their sample rates must agree. Null when there is no sound. */
export function openSound(media: Media, codecs: WebCodecs | null): SoundSource | null {
  const tracks = media.audio
  if (tracks.length === 0) return null
  const { sampleRate } = tracks[0]!.info
  if (tracks.some((t) => t.info.sampleRate !== sampleRate))
    fail(
      'media.mixed-sample-rates',
      'The sound tracks of this file run at different sample rates.',
      media.source.name,
      'Ask for one sample rate throughout.',
    )
  const readers = tracks.map((t) => openTrack(media, t, codecs))
  return {
    channels: tracks.reduce((n, t) => n + t.info.channels, 0),
    sampleRate,
    samples: Math.max(...tracks.map((t) => t.info.samples)),
    async read(from, count) {
      const out: Float32Array[] = []
      for (let i = 0; i < tracks.length; i++) out.push(...(await readers[i]!(from, count)))
      return out
    },
  }
}

function openTrack(media: Media, track: AudioTrack, codecs: WebCodecs | null): TrackReader {
  const codec =
    soundCodec(track.info.codec) ??
    fail(
      'codec.unknown',
      `Sound of kind “${track.info.codec}” cannot be decoded here.`,
      media.source.name,
      `Ask for ${labels(soundCodecs)} sound.`,
    )
  const { lead = 0, samples } = track.info
  if (lead === 0) return codec.decode.open(media, track, codecs)
  const late = codec.decode.open(media, { ...track, info: { ...track.info, samples: samples - lead } }, codecs)
  return (from, count) => late(from - lead, count)
}
