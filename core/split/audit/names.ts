import { fileSafe, spelled, unusablePart } from '../../files/safe'
import { grouped } from '../../group'
import type { Problem } from '../../problem'
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

/** What is said of a name that a region is not to have. */
const nameRefused = (name: string, why: string): Problem => ({
  code: 'split.name',
  message: `A region cannot be called “${name.slice(0, 80)}”: ${why}.`,
  fix: 'It keeps the name it had; give it another.',
})

/** What is against a region's name wherever it is; null where a file can have it. */
export function unusableName(region: Region): Problem | null {
  const { unusable } = nameFacts(region)
  return unusable ? nameRefused(region.name, unusable) : null
}

/** Names of regions as systems spell them, to hold others against. */
export function namesBySpelling(regions: readonly Region[]): ReadonlyMap<string, readonly Region[]> {
  return grouped(regions, (r) => nameFacts(r).spelled)
}

/**
 * What is against a name for a region: no file can have the name, or some system takes it for that of another region,
 * which is written differently; null where nothing is. The very same name is an audit's matter: parts often
 * share one.
 */
export function refusedName(region: Region, bySpelling: ReadonlyMap<string, readonly Region[]>): Problem | null {
  const unusable = unusableName(region)
  const { spelled: own } = nameFacts(region)
  if (unusable || own === '') return unusable
  const others = (bySpelling.get(own) ?? []).filter((r) => r.id !== region.id)
  const other = others.some((r) => r.name.trim() === region.name.trim()) ? undefined : others[0]
  return other ? nameRefused(region.name, `some systems take it for “${other.name}”`) : null
}
