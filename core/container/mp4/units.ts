import { encodePcm } from '../../codec/pcm/pcm'
import type { TrackPlan, UnitPlan, Units } from '../container'
import { layout } from './layout'

/** Bytes of a PCM sample in such files. */
const pcmBytes = 3

/**
 * Lays a MOV out whose pictures are all of one size: each frame is followed by its own sound, all channels together.
 */
export function layUnits(brand: string, plan: UnitPlan): Units {
  const { frames, rate, pictureBytes, sound, samplesBefore } = plan
  const channels = sound?.channels ?? 0
  const offset = (n: number) => n * pictureBytes + samplesBefore(n) * channels * pcmBytes
  const tracks: TrackPlan[] = [
    {
      essence: plan.video,
      timescale: rate.num,
      sizes: { constant: pictureBytes, count: frames },
      durations: { constant: rate.den },
      chunks: Array.from({ length: frames }, (_, n) => ({ offset: offset(n), samples: 1 })),
    },
  ]
  if (sound)
    tracks.push({
      essence: sound,
      timescale: sound.sampleRate,
      sizes: { constant: channels * pcmBytes, count: samplesBefore(frames) },
      durations: { constant: 1 },
      chunks: Array.from({ length: frames }, (_, n) => ({
        offset: offset(n) + pictureBytes,
        samples: samplesBefore(n + 1) - samplesBefore(n),
      })),
    })
  const dataSize = offset(frames)
  const { head, tail } = layout(brand, { ...plan, tracks, dataSize })
  return {
    head,
    tail: { at: head.length + dataSize, bytes: tail },
    unit(frame, picture, channelsOf) {
      const at = head.length + offset(frame)
      const pieces = [{ at, bytes: picture }]
      if (channelsOf.length) pieces.push({ at: at + pictureBytes, bytes: encodePcm(channelsOf, 24, false) })
      return pieces
    },
  }
}
