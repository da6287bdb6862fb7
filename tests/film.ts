import { pictureCodec } from '../core/codec/registry'
import { mxf } from '../core/container/mxf/container'
import { bt709 } from '../core/media/colour'
import type { LinesKind } from '../core/media/media'
import { noise } from '../core/kernel/noise'
import { emptyPicture } from '../core/picture/picture'
import { makeRate } from '../core/time/rate'

/** Frames of a film. */
export const filmFrames = 12

/** What a film has besides its pictures. */
interface FilmPlan {
  readonly codec?: 'mpeg2' | 'h264-intra'
  /** Lines of the blanking of each frame. */
  readonly lines?: (n: number) => Uint8Array
  /** Makes another coded picture of each, at most `more` bytes longer. */
  readonly coded?: (unit: Uint8Array, n: number) => Uint8Array
  readonly more?: number
}

/** An MXF of segmented 1080-line pictures, as another house may send it. */
export async function film({ codec = 'mpeg2', lines, coded = (u) => u, more = 0 }: FilmPlan): Promise<Uint8Array> {
  const shape = { width: 1920, height: 1080, rate: makeRate(25), scan: 'segmented' } as const
  const bitrate = 50e6
  const encode = pictureCodec(codec)!.encode!
  const pictureBytes = encode.frameBytes!(shape, bitrate) + more
  const encoder = encode.open({ ...shape, bitrate, colour: bt709 }, null)
  const data: LinesKind[] = lines ? ['ancillary'] : []
  const units = mxf.units!('mxf', {
    video: { ...shape, kind: 'video', codec, pixelAspect: '1:1', colour: bt709, configuration: null },
    ...{ pictureBytes, sound: null, samplesBefore: () => 0, data, frames: filmFrames, rate: shape.rate },
    ...{ start: { frames: 90_000, dropFrame: false }, name: 'Fog Bell', chapters: [] },
    identity: new Uint8Array(16).fill(9),
  })
  const out = new Uint8Array(units.tail.at + units.tail.bytes.length)
  out.set(units.head)
  out.set(units.tail.bytes, units.tail.at)
  const picture = emptyPicture(1920, 1080, '4:2:2', 8)
  for (const plane of picture.planes.slice(1)) plane.fill(128)
  for (let n = 0; n < filmFrames; n++) {
    const grain = noise(new Uint8Array(1920), 60, n + 1)
    picture.planes[0].forEach((_, i) => (picture.planes[0][i] = 60 + grain[i % 1920]! + n))
    await encoder.feed({ ...picture })
    for (const u of encoder.take()) {
      // noughts may stand between pictures
      const unit = new Uint8Array(pictureBytes)
      unit.set(coded(u.bytes, n))
      for (const p of units.unit(n, unit, [], lines ? [lines(n)] : [])) out.set(p.bytes, p.at)
    }
  }
  return out
}
