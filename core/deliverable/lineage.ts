import type { SplitTimeline } from '../split/timeline'
import { keyText, type DeliverableKey } from './outlet'

/** The keys of a deliverable: its own, then those it had in older versions of its timeline, newest first. */
export type Lineage = (key: DeliverableKey) => string[]

/** Follows regions through the versions of timelines they were taken over from. */
export function lineageOf(timelines: readonly Pick<SplitTimeline, 'id' | 'split'>[]): Lineage {
  const from = new Map(
    timelines.flatMap((t) => t.split.regions.flatMap((r) => (r.from ? [[`${t.id}/${r.id}`, r.from] as const] : []))),
  )
  return (key) => {
    const keys = [keyText(key)]
    let at = from.get(`${key.timelineId}/${key.regionId}`)
    // a region that comes from itself would never end
    for (; at && keys.length < 100; at = from.get(`${at.timelineId}/${at.regionId}`))
      keys.push(keyText({ ...at, outletId: key.outletId }))
    return keys
  }
}

/** Which of these deliverables a newer version of goes to the same outlet. */
export function supersededOf(keys: readonly DeliverableKey[], lineage: Lineage): Set<string> {
  return new Set(keys.flatMap((k) => lineage(k).slice(1)))
}
