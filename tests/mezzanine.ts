import { writeFileSync } from 'node:fs'
import { concatBytes } from '../core/bytes'
import { frameOf, type FrameWanted } from '../core/codec/rdd36/samples'
import { mp4 } from '../core/container/mp4/container'
import { makeRate } from '../core/time/rate'

/** Codes of kinds of RDD 36 in a MOV, the one that is written first. */
const written = 'apch'

/** A picture of which every frame is another. */
const drawn = (n: number) => (plane: number, x: number, y: number) =>
  Math.round(512 + 250 * Math.sin((x + 3 * n) / 17 + plane) * Math.cos(y / 13) + ((x * 5 + y * 3 + n * 11) % 23))

/** The sample that a frame of a {@link mezzanine} was made from. */
export const mezzanineSample = (n: number, plane: number, x: number, y: number): number => drawn(n)(plane, x, y)

/** A MOV of RDD 36 of 25 frames a second from 10:00:00:00 on, as an edit hands it over, with silence in stereo. */
export function mezzanine(
  file: string,
  frames: number,
  more: Partial<FrameWanted> & { readonly kind?: string } = {},
): void {
  const { width = 320, height = 180, fields, kind = 'apcn' } = more
  const codes = { aspect: 1, rate: 3, ...more.codes }
  const [primaries, transfer, matrix] = codes.colour ?? [1, 1, 1]
  const colour = { primaries, transfer, matrix, fullRange: false }
  const units = Array.from({ length: frames }, (_, n) =>
    frameOf({ index: 1, sample: drawn(n), ...more, width, height, codes }),
  )
  const sound = 1920 * 6
  const starts = units.reduce<number[]>((list, u) => [...list, list.at(-1)! + u.length + sound], [0])
  const { head, tail } = mp4.layout!('mov', {
    ...{ frames, rate: makeRate(25), start: { frames: 900_000, dropFrame: false }, chapters: [] },
    dataSize: starts.at(-1)!,
    tracks: [
      {
        essence: {
          ...{ kind: 'video', codec: 'rdd36', width, height, pixelAspect: '1:1', colour, configuration: null },
          scan: fields === undefined ? 'progressive' : fields === 'upper first' ? 'interlaced-tff' : 'interlaced-bff',
        },
        timescale: 25,
        sizes: Uint32Array.from(units, (u) => u.length),
        durations: { constant: 1 },
        chunks: units.map((_, n) => ({ offset: starts[n]!, samples: 1 })),
      },
      {
        essence: {
          ...{ kind: 'audio', codec: 'pcm', channels: 2, sampleRate: 48000, layout: 'L R', configuration: null },
          bitrate: 0,
        },
        timescale: 48000,
        sizes: { constant: 6, count: frames * 1920 },
        durations: { constant: 1 },
        chunks: units.map((u, n) => ({ offset: starts[n]! + u.length, samples: 1920 })),
      },
    ],
  })
  const bytes = Buffer.from(concatBytes([head, ...units.flatMap((u) => [u, new Uint8Array(sound)]), tail]))
  bytes.write(kind, bytes.lastIndexOf(`${written}\0\0\0\0\0\0`, undefined, 'latin1'), 'latin1')
  writeFileSync(file, bytes)
}
