import { readThrough } from '../../../core/codec/damage'
import type { EndPicture } from '../../../core/measure/measure'
import { lookDifference, lookOf } from '../../../core/picture/look'
import { pictureDifference, type Picture } from '../../../core/picture/picture'
import { ProblemError } from '../../../core/problem'
import type { Frames } from '../../../core/time/rate'
import type { DeliverableStep } from '../context'

/** How many neighbours on each side are looked at, to tell a shift from a difference. */
const reach = 3

/**
 * Compares a written picture, frame `n` of its file, with the timeline's own, which a frame of the timeline begins, and
 * with its neighbours: seen small, as grain that a codec leaves out makes it no other picture; sample by sample to tell
 * which of them it is.
 */
export async function compareEnd(
  { source, item }: Pick<DeliverableStep, 'source' | 'item'>,
  written: Picture,
  frame: Frames,
  n: Frames,
): Promise<{ end: EndPicture; own: Picture }> {
  const v = source.info.video[0]!
  const total = v.frames
  const { perFrame = 1 } = item.output
  const isOwn = (f: Frames) => f >= frame && f < frame + perFrame
  const [before, after] = [Math.min(reach, Math.floor(frame / perFrame)), reach + 1].map((x) => x * perFrame)
  const range = { in: frame - before!, out: Math.min(total, frame + after!) }
  let own: Picture | null = null
  let difference = 255
  let best = { off: 0, difference: 255 }
  let held: Picture[] = []
  let first = range.in
  for await (const near of readThrough(source.pictures(), range, v)) {
    if (near.frame >= first + perFrame) [held, first] = [[], first + perFrame]
    if (near.damaged && isOwn(near.frame)) throw new ProblemError(near.damaged)
    // a neighbour that cannot be decoded is none; it may not even be of the region
    if (!near.damaged) held.push(near.picture)
    if (held.length < perFrame) continue
    const picture = source.render(held, n)
    const d = pictureDifference(picture, written)
    if (isOwn(near.frame)) {
      own = picture
      difference = d
    }
    if (d < best.difference) best = { off: (first - frame) / perFrame, difference: d }
  }
  const shifted = best.off !== 0 && difference > best.difference * 1.5 + 0.3
  return { own: own!, end: { difference: seenSmall(own!, written), shift: shifted ? best.off : 0 } }
}

/** The mean difference of two pictures seen small, in 8-bit steps; 255 where they are not of one raster. */
const seenSmall = (a: Picture, b: Picture) =>
  a.width === b.width && a.height === b.height ? lookDifference(lookOf(a), lookOf(b)).mean : 255
