import { toProblem, type Problem } from '../../core/problem'
import type { FrozenDeliverable } from '../../core/deliverable/sheet'
import type { Claim } from '../queue/port'
import type { Roots } from '../storage/roots'
import type { SourceRef } from './sources/source'

/** Thrown when a step cannot be done as long as a storage root is away: it is set aside until the root is back. */
export class Aside extends Error {
  constructor(
    readonly roots: readonly string[],
    readonly problem: Problem,
  ) {
    super(problem.message)
  }
}

/** What a disk says that has just gone, or was gone for a moment. */
const ofTheDisk = new Set(['EIO', 'ESTALE', 'ENODEV', 'ENXIO', 'ENOTCONN', 'EHOSTDOWN', 'ETIMEDOUT'])
/** How often a step may stumble over a disk whose root is there, until it fails. */
const mostStumbles = 5

const rootsOf = ({ root, assembly }: Pick<SourceRef, 'root' | 'assembly'>) => [
  root,
  ...(assembly?.sources ?? []).map((s) => s.root),
]

/** The storage roots that a step of a deliverable reads and writes. */
export const rootsOfDeliverable = (item: FrozenDeliverable) => [
  ...new Set([
    ...rootsOf({ root: item.source.root, assembly: item.assembly ?? null }),
    ...(item.earlier ? [item.earlier.root] : []),
    item.target.root,
  ]),
]

/** What a step that failed is set aside for; null when it failed for another reason. */
export function asideFor(storage: Roots, roots: readonly string[], claim: Claim, e: unknown): Aside | null {
  for (const name of roots) {
    const away = storage.away(name)
    if (away) return new Aside(roots, away)
  }
  const stumbled = ofTheDisk.has((e as { code?: string }).code ?? '') && claim.stumbles < mostStumbles
  return stumbled ? new Aside(roots, toProblem(e)) : null
}

/** The storage roots that background work reads. */
export const rootsOfSource = (ref: Pick<SourceRef, 'root' | 'assembly'>) => [...new Set(rootsOf(ref))]
