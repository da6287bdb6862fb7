import type { ByteSource } from '../bytes'
import { pictureCaptionMeter, type CaptionFacts } from '../media/captions/meter'
import type { VideoTrack } from '../media/media'
import type { FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import { captionsOf } from './captions'
import { pictureCodec } from './registry'

/** What the coded pictures of a range say of themselves, without being decoded. */
export interface UnitFacts {
  /** What the captions that go with them say; null where there are none. */
  readonly captions: CaptionFacts | null
  /** How many say that they lean on others, and how many do not say; null of codecs whose pictures say nothing. */
  readonly leaning: { readonly frames: Frames; readonly untold: Frames } | null
}

/** What coded pictures of the sources of a timeline say, all of them together. */
export interface SourceUnits {
  readonly captions: boolean
  readonly leaning: UnitFacts['leaning']
}

/** What the pictures of several files say together. */
export function unitsTogether(files: readonly (UnitFacts | null)[]): SourceUnits {
  const all = files.flatMap((f) => f ?? [])
  const leaning = all.flatMap((f) => f.leaning ?? [])
  const sum = (of: 'frames' | 'untold') => leaning.reduce((n, l) => n + l[of], 0)
  return {
    captions: all.some((f) => f.captions !== null),
    leaning: leaning.length === all.length && all.length > 0 ? { frames: sum('frames'), untold: sum('untold') } : null,
  }
}

/** Whether coded pictures of a kind may say anything of themselves. */
export function unitsTell(codec: string): boolean {
  const known = pictureCodec(codec)
  return known?.isAlone !== undefined || known?.nal !== undefined
}

/** Goes through coded pictures in the order they are shown; `progress` is told of each. */
export async function unitFacts(
  source: ByteSource,
  track: VideoTrack,
  range: FrameRange,
  progress: () => void = () => undefined,
): Promise<UnitFacts> {
  const meter = pictureCaptionMeter()
  const isAlone = pictureCodec(track.info.codec)?.isAlone
  let [frames, untold] = [0, 0]
  for (let n = range.in; n < Math.min(range.out, track.info.frames); n++) {
    const { offset, size } = track.sample(track.sampleOfFrame(n))
    const unit = await source.read(offset, isAlone ? size : Math.min(size, head))
    meter.feed(captionsOf(unit), n)
    const alone = isAlone?.(unit, track.configuration) ?? null
    if (alone === null) untold++
    else if (!alone) frames++
    progress()
  }
  return { captions: meter.result(), leaning: isAlone ? { frames, untold } : null }
}

/** Bytes of a picture that are read where only what stands in front of it is of interest. */
const head = 1 << 16
