import { lastAtOrBefore } from '../time/order'
import type { Frames } from '../time/rate'
import type { Shot } from '../timeline/model'

/** The shot in which a frame lies. */
export function shotAt(shots: readonly Shot[], at: Frames): Shot | null {
  const i = lastAtOrBefore(
    shots.map((s) => s.in),
    at,
  )
  const shot = shots[i]
  return shot && at < shot.out ? shot : null
}
