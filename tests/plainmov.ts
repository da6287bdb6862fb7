import { mp4 } from '../core/container/mp4/container'
import type { Scan } from '../core/media/media'
import type { Layout } from '../core/container/container'
import { v210Size } from '../core/codec/v210/v210'

/** Where all stands in a MOV of v210 pictures at 25 frames a second, each followed by its stereo tracks of sound. */
export function plainMov(
  width: number,
  height: number,
  frames: number,
  start: number,
  scan: Scan = 'progressive',
  soundTracks = 1,
): Layout & { picture: number; step: number } {
  const picture = v210Size(width, height)
  const block = 1920 * 6
  const step = picture + soundTracks * block
  const rate = { num: 25, den: 1 }
  const layout = mp4.layout!('mov', {
    frames,
    rate,
    start: { frames: start, dropFrame: false },
    chapters: [],
    dataSize: frames * step,
    tracks: [
      {
        essence: {
          kind: 'video',
          codec: 'v210',
          width,
          height,
          pixelAspect: '1:1',
          colour: null,
          scan,
          configuration: null,
        },
        timescale: 25,
        sizes: { constant: picture, count: frames },
        durations: { constant: 1 },
        chunks: Array.from({ length: frames }, (_, n) => ({ offset: n * step, samples: 1 })),
      },
      ...Array.from({ length: soundTracks }, (_, track) => ({
        essence: {
          kind: 'audio' as const,
          codec: 'pcm',
          channels: 2,
          sampleRate: 48000,
          layout: 'L R',
          configuration: null,
          bitrate: 0,
        },
        timescale: 48000,
        sizes: { constant: 6, count: frames * 1920 },
        durations: { constant: 1 },
        chunks: Array.from({ length: frames }, (_, n) => ({
          offset: n * step + picture + track * block,
          samples: 1920,
        })),
      })),
    ],
  })
  return { ...layout, picture, step }
}
