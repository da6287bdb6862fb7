import { mp4 } from '../core/container/mp4/container'
import type { Scan } from '../core/media/media'
import type { Layout } from '../core/container/container'
import { v210Size } from '../core/codec/v210/v210'

/**
 * Where all stands in a MOV of v210 pictures at 25 frames a second, each followed by its tracks of sound, of which
 * `layouts` says what their channels are.
 */
export function plainMov(
  width: number,
  height: number,
  frames: number,
  start: number,
  scan: Scan = 'progressive',
  layouts: readonly string[] = ['L R'],
): Layout & { picture: number; step: number } {
  const picture = v210Size(width, height)
  const sizes = layouts.map((names) => 3 * names.split(' ').length)
  const before = (track: number) => 1920 * sizes.slice(0, track).reduce((n, size) => n + size, 0)
  const step = picture + before(layouts.length)
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
      ...layouts.map((layout, track) => ({
        essence: {
          kind: 'audio' as const,
          codec: 'pcm',
          channels: sizes[track]! / 3,
          sampleRate: 48000,
          layout,
          configuration: null,
          bitrate: 0,
        },
        timescale: 48000,
        sizes: { constant: sizes[track]!, count: frames * 1920 },
        durations: { constant: 1 },
        chunks: Array.from({ length: frames }, (_, n) => ({
          offset: n * step + picture + before(track),
          samples: 1920,
        })),
      })),
    ],
  })
  return { ...layout, picture, step }
}
