import type { AudioTrack } from '../media/media'
import { rates, type Frames, type Rate, type Samples, type Seconds } from '../time/rate'

/** Pictures of varying durations at a constant rate. */
export interface Conformed {
  readonly rate: Rate
  /** Which picture, in display order, each frame shows. */
  readonly shown: Uint32Array
}

/** A day at 120 frames a second. */
const mostFrames = 24 * 3600 * 120

/** The standard rate nearest to a number of pictures a second. */
function nearest(perSecond: number): Rate {
  const distance = (r: Rate) => Math.abs(Math.log(r.num / r.den / perSecond))
  return rates.reduce((best, r) => (distance(r) < distance(best) ? r : best))
}

/**
 * Lays pictures shown at varying times into frames of the standard rate nearest to theirs: each frame shows the picture
 * that is due at its middle, so none lies more than half a frame beside its time. `times` are in display order, in
 * ticks of which there are `ticks` a second; `end` is when the last one goes.
 */
export function conform(times: ArrayLike<number>, end: number, ticks: number): Conformed {
  const from = times[0]!
  const length = Math.max(1, end - from)
  const rate = nearest((times.length * ticks) / length)
  const frame = (ticks * rate.den) / rate.num
  const due: Frames = Math.max(1, Math.round(length / frame))
  // times that make no sense are those of a damaged index: then each picture is a frame
  if (!(due <= mostFrames)) return { rate, shown: Uint32Array.from(times, (_, i) => i) }
  let picture = 0
  const shown = Uint32Array.from({ length: due }, (_, n) => {
    const middle = from + (n + 0.5) * frame
    while (picture + 1 < times.length && times[picture + 1]! <= middle) picture++
    return picture
  })
  return { rate, shown }
}

/**
 * A sound track counted from the first picture: what sounds before it is left out; where the sound begins later, it is
 * silent until then.
 */
export function countedFrom(track: AudioTrack, soundStarts: Seconds, picturesStart: Seconds): AudioTrack {
  const by: Samples = Math.round((picturesStart - soundStarts) * track.info.sampleRate)
  if (by === 0) return track
  const { samples } = track.info
  return by > 0
    ? {
        ...track,
        start: track.start + Math.min(by, samples),
        info: { ...track.info, samples: samples - Math.min(by, samples) },
      }
    : { ...track, info: { ...track.info, samples: samples - by, lead: -by } }
}
