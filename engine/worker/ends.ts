import { readThrough } from '../../core/codec/damage'
import type { EndPicture } from '../../core/measure/measure'
import { pictureDifference, type Picture } from '../../core/picture/picture'
import { ProblemError } from '../../core/problem'
import type { Frames } from '../../core/time/rate'
import type { DeliverableSource } from './context'

/** How many neighbours on each side are looked at, to tell a shift from a difference. */
const reach = 3

/** Compares a written picture, frame `n` of its file, with the timeline's own at a frame and with its neighbours. */
export async function compareEnd(
  source: DeliverableSource,
  written: Picture,
  frame: Frames,
  n: Frames,
): Promise<{ end: EndPicture; own: Picture }> {
  const v = source.info.video[0]!
  const total = v.frames
  const range = { in: Math.max(0, frame - reach), out: Math.min(total, frame + reach + 1) }
  let own: Picture | null = null
  let difference = 255
  let best = { off: 0, difference: 255 }
  for await (const near of readThrough(source.pictures(), range, v)) {
    // a neighbour that cannot be decoded is none; it may not even be of the region
    if (near.damaged && near.frame !== frame) continue
    if (near.damaged) throw new ProblemError(near.damaged)
    const picture = source.render(near.picture, n)
    const d = pictureDifference(picture, written)
    if (near.frame === frame) {
      own = picture
      difference = d
    }
    if (d < best.difference) best = { off: near.frame - frame, difference: d }
  }
  const shifted = best.off !== 0 && difference > best.difference * 1.5 + 0.3
  return { own: own!, end: { difference, shift: shifted ? best.off : 0 } }
}
