import { isAlike, type Fingerprint } from '../../core/media/fingerprint'
import type { SplitTimeline } from '../../core/split/timeline'
import { sumOf } from '../storage/wholesum'
import type { Db } from '../store/database'
import { factKeys, readFacts } from '../store/facts'

/** Gives media that is here already the name under which it is known. */
export type Settle = (full: string, taken: Fingerprint) => Promise<Fingerprint>

/**
 * A file that was written again may have the same size, and be the same in all that a fingerprint looks at. With the
 * time of change of media that is known it is that; with another one it is that only when every byte is the same.
 */
export const settling =
  (db: Db, timelines: () => Promise<readonly SplitTimeline[]>): Settle =>
  async (full, taken) => {
    const known = (await timelines()).flatMap((t) =>
      t.linking ? t.linking.assembly.sources.map((s) => s.fingerprint) : [t.fingerprint],
    )
    const alike = known.filter((f) => isAlike(f, taken))
    const named = ({ content }: Fingerprint) => ({ ...taken, content })
    const untouched = alike.find((f) => f.modified === taken.modified)
    if (untouched) return named(untouched)
    if (alike.length === 0) return taken
    const [sum, sums] = [await sumOf(full), await readFacts(db, alike.map(factKeys.sum))]
    const same = alike.find((f) => sums.get(factKeys.sum(f)) === sum)
    return same ? named(same) : taken
  }
