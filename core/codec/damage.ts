import type { FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import { blackPicture, type Picture } from '../picture/picture'
import { ProblemError, type Problem } from '../problem'
import type { PictureSource } from './codec'

// Pictures that cannot be decoded, and the rest of what they stand in: one of them costs itself and what leans on it.

/** What codecs say of a picture whose bytes are not right; what else goes wrong is no fault of a picture. */
const ofPicture = new Set(['media.undecodable', 'media.short-frame', 'stills.undecodable'])

/** How far back a picture is looked for that can stand in for one. */
const farthest: Frames = 300

/** A frame as it was read; `damaged` says why it could not be, and that another picture stands in for it. */
export interface ReadFrame {
  readonly frame: Frames
  readonly picture: Picture
  readonly damaged: Problem | null
}

function damageOf(e: unknown): Problem {
  if (e instanceof ProblemError && ofPicture.has(e.problem.code)) return e.problem
  throw e
}

/** One frame by itself, or why it cannot be decoded. */
async function single(source: PictureSource, frame: Frames): Promise<Picture | Problem> {
  try {
    for await (const { picture } of source.read({ in: frame, out: frame + 1 })) return picture
  } catch (e) {
    return damageOf(e)
  }
  throw new Error(`no picture came for frame ${frame}`)
}

const isPicture = (p: Picture | Problem): p is Picture => 'planes' in p

/** The nearest picture before a frame that can be decoded; black where there is none. */
async function standIn(source: PictureSource, frame: Frames, shape: Shape): Promise<Picture> {
  for (let n = frame - 1; n >= Math.max(0, frame - farthest); n--) {
    const picture = await single(source, n)
    if (isPicture(picture)) return picture
  }
  return blackPicture(
    shape.width,
    shape.height,
    shape.chroma === '4:2:0' ? '4:2:0' : '4:2:2',
    shape.bitDepth > 8 ? 10 : 8,
  )
}

/** Of the pictures of a source: what black has to be like. */
interface Shape {
  readonly width: number
  readonly height: number
  readonly chroma: string
  readonly bitDepth: number
}

/**
 * Every frame of a range in order, whatever cannot be decoded: the nearest one before stands in for it. A decoder that
 * gave up has often not come to frames before the one at fault: each is tried by itself, and the rest is read on from
 * the first that comes right, or from where decoding can begin anew.
 */
export async function* readThrough(source: PictureSource, range: FrameRange, shape: Shape): AsyncGenerator<ReadFrame> {
  let last: Picture | null = null
  let next = range.in
  while (next < range.out) {
    try {
      for await (const { frame, picture } of source.read({ in: next, out: range.out })) {
        yield { frame, picture: (last = picture), damaged: null }
        next = frame + 1
      }
      return
    } catch (e) {
      damageOf(e)
    }
    for (let lost = 0, again = false; next < range.out && !again;) {
      const picture = await single(source, next)
      if (isPicture(picture)) {
        yield { frame: next++, picture: (last = picture), damaged: null }
        again = lost > 0
        continue
      }
      // two in a row: what follows leans on them, up to where decoding begins anew
      const end: Frames = ++lost > 1 ? Math.min(range.out, source.after?.(next) ?? next + 1) : next + 1
      for (; next < end; next++) {
        last ??= await standIn(source, next, shape)
        yield { frame: next, picture: last, damaged: picture }
      }
    }
  }
}

/** A source in which these frames may be damaged: others stand in for them. Damage anywhere else is one as ever. */
export function accepting(source: PictureSource, frames: readonly FrameRange[], shape: Shape): PictureSource {
  return {
    ...source,
    async *read(range) {
      for await (const { frame, picture, damaged } of readThrough(source, range, shape)) {
        if (damaged && !frames.some((r) => frame >= r.in && frame < r.out)) throw new ProblemError(damaged)
        yield { frame, picture }
      }
    },
  }
}
