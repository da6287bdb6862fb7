import type { AudioInfo, AudioTrack, Media } from '../media/media'
import { ProblemError, type Problem } from '../problem'
import { layoutTaken } from '../sound/layout'
import { isIn, placed, soundRate, type Placed } from '../sound/tracks'
import { listed } from '../text'
import type { Samples } from '../time/rate'
import type { SoundSource, TrackReader } from './codec'
import { labels, soundCodec, soundCodecs } from './registry'
import { silence } from './silence'
import type { WebCodecs } from './web/webcodecs'

/** Why a track is read nowhere here; null where it is. Whether a machine has its decoder is not asked. */
function whyClosed({ first, channels, ...track }: AudioInfo & Placed, sampleRate: number): Problem | null {
  const unknown = (track.codecs ?? [track.codec]).find((c) => !soundCodec(c))
  if (unknown !== undefined)
    return {
      code: 'codec.unknown',
      message: `Sound of kind “${unknown}” cannot be decoded here.`,
      fix: `Take other channels, use a rewrap, or ask for ${labels(soundCodecs)} sound.`,
    }
  if (track.sampleRate === sampleRate) return null
  const which = channels === 1 ? `Channel ${first + 1} runs` : `Channels ${first + 1} to ${first + channels} run`
  return {
    code: 'media.mixed-sample-rates',
    message: `${which} at ${track.sampleRate / 1000} kHz, others at ${sampleRate / 1000} kHz.`,
    fix: 'Take other channels, use a rewrap, or ask for one sample rate throughout.',
  }
}

/**
 * Why channels of a file are read nowhere here, by channel over all its tracks: of a kind that is not known, or at
 * another sample rate than most.
 */
export function closedChannels(audio: readonly AudioInfo[]): ReadonlyMap<number, Problem> {
  const sampleRate = soundRate(audio)
  return new Map(
    placed(audio).flatMap((t) => {
      const why = whyClosed(t, sampleRate)
      return why ? Array.from({ length: t.channels }, (_, i) => [t.first + i, why] as const) : []
    }),
  )
}

const areNotHeard = (of: readonly string[]) =>
  of.length > 1 ? `Channels ${listed(of)} are not heard.` : `Channel ${of[0]} is not heard.`

/** What is said of channels that are read nowhere here, each reason once; null where there are none. */
export function closedText(audio: readonly AudioInfo[]): string | null {
  const closed = closedChannels(audio)
  const reasons = [...new Set([...closed.values()].map((p) => p.message))]
  const of = (message: string) => [...closed].flatMap(([c, p]) => (p.message === message ? [String(c + 1)] : []))
  return reasons.map((r) => `${areNotHeard(of(r))} ${r}`).join(' ') || null
}

/** Why a route takes channels that are read nowhere here; null where it takes none of them. */
export function closedIn(audio: readonly AudioInfo[], route: readonly number[]): Problem | null {
  const closed = closedChannels(audio)
  const first = route.find((c) => closed.has(c))
  return first === undefined ? null : closed.get(first)!
}

/** Whether all of these tracks can be read on this machine, as one. */
export const canDecodeSound = (audio: readonly AudioInfo[], codecs: WebCodecs | null): boolean =>
  closedChannels(audio).size === 0 && audio.every((t) => codecs !== null || !soundCodec(t.codec)!.decode.needsWeb)

/** The tracks that are read here. */
export function openTracks(audio: readonly AudioInfo[]): readonly AudioInfo[] {
  const closed = closedChannels(audio)
  const places = placed(audio)
  return audio.filter((_, i) => !closed.has(places[i]!.first))
}

/** Whether any sound of a file can be heard on this machine: all tracks that are read at all, and one at least. */
export function canHear(audio: readonly AudioInfo[], codecs: WebCodecs | null): boolean {
  const open = openTracks(audio)
  return open.length > 0 && canDecodeSound(open, codecs)
}

/** The channels of a sound that can be read; where there are none, the problem of the first is thrown. */
export function openChannels({ channels, closed }: Pick<SoundSource, 'channels' | 'closed'>): number[] {
  const open = Array.from({ length: channels }, (_, c) => c).filter((c) => !closed?.has(c))
  const why = open.length ? null : closed?.get(0)
  if (why) throw new ProblemError(why)
  return open
}

/** Reads sounds that stand side by side, each from a channel on: those alone of which a channel is wanted. */
export function besideEachOther(
  parts: readonly { readonly channels: number; readonly read: SoundSource['read'] }[],
): SoundSource['read'] {
  const all = placed(parts)
  return async (from, count, wanted) => {
    const out: Float32Array[] = []
    for (const part of all) {
      const own = wanted?.filter((c) => isIn(part, c)).map((c) => c - part.first)
      out.push(...(own?.length === 0 ? silence(part.channels, count) : await part.read(from, count, own)))
    }
    return out
  }
}

/** A source over all sound tracks of a file; one is opened when it is read first. Null when there is no sound. */
export function openSound(media: Media, codecs: WebCodecs | null): SoundSource | null {
  const tracks = media.audio
  if (tracks.length === 0) return null
  const infos = tracks.map((t) => t.info)
  const sampleRate = soundRate(infos)
  const closed = closedChannels(infos)
  const readers = placed(tracks.map((track) => ({ track, channels: track.info.channels }))).map((t) => {
    const why = closed.get(t.first)
    let open: TrackReader | null = null
    return {
      channels: t.channels,
      read(from: Samples, count: Samples) {
        if (why) throw new ProblemError({ ...why, where: media.source.name })
        return (open ??= openTrack(media, t.track, codecs))(from, count)
      },
    }
  })
  return {
    channels: infos.reduce((n, t) => n + t.channels, 0),
    sampleRate,
    samples: Math.max(...infos.map((t) => (t.sampleRate === sampleRate ? t.samples : 0))),
    layout: layoutTaken(infos),
    ...(closed.size ? { closed } : {}),
    read: besideEachOther(readers),
  }
}

function openTrack(media: Media, track: AudioTrack, codecs: WebCodecs | null): TrackReader {
  const { decode } = soundCodec(track.info.codec)!
  const { lead = 0, samples } = track.info
  if (lead === 0) return decode.open(media, track, codecs)
  const late = decode.open(media, { ...track, info: { ...track.info, samples: samples - lead } }, codecs)
  return (from, count) => late(from - lead, count)
}
