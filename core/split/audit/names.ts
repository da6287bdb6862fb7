import { fileSafe, spelled, unusablePart } from '../../files/safe'
import type { Region } from '../region'

/** What follows from a region's name alone. */
interface NameFacts {
  /** The same for names that some system takes for one. */
  readonly spelled: string
  /** Why it cannot be in the name of a file; null when it can. */
  readonly unusable: string | null
}

const kept = new WeakMap<Region, NameFacts>()

/** Of a region that has not changed it is not worked out again: there are thousands at every edit. */
export function nameFacts(r: Region): NameFacts {
  const known = kept.get(r)
  if (known) return known
  const made = { spelled: spelled(r.name), unusable: unusablePart(fileSafe(r.name)) }
  kept.set(r, made)
  return made
}
