import type { FrozenDeliverable } from '../../core/deliverable/sheet'
import { sharedBy } from '../../core/job/steps'
import type { Abilities } from '../../core/recipe/output'
import { workFrames } from '../../core/time/samples'
import { reads, writes, type OfferedStep } from '../queue/port'
import { rootsOfDeliverable } from '../worker/aside'
import { abilityNames } from '../worker/codecs'

/**
 * The steps of a frozen deliverable as the queue takes them. Each asks of a worker what all of them need, since what
 * one makes the next looks at: the storage roots, the codecs of its source, and those of the file where this machine
 * can decode it. What neither this machine nor any that takes part can (`joined`) is not asked for: it begins, and says
 * why it fails, instead of waiting for nobody.
 */
export function offersOf(
  run: string,
  position: number,
  d: FrozenDeliverable,
  able: Abilities,
  joined: ReadonlySet<string> = new Set(),
): OfferedStep[] {
  const { video, audio } = d.output
  const written = [video?.codec, audio?.codec].filter((c) => c !== undefined && able.decodes.includes(c))
  const asked = new Set([...d.steps.flatMap((s) => s.abilities), ...written.map((c) => `decode:${c}`)])
  const here = new Set(abilityNames(able))
  const abilities = [...asked].filter((a) => here.has(a) || joined.has(a))
  const { root } = d.target
  const places = rootsOfDeliverable(d).map((r) => (r === root ? writes(r) : reads(r)))
  return d.steps.map((s) => ({
    run,
    deliverable: d.id,
    key: s.key,
    kind: s.kind,
    payload: { range: s.range, ...(s.pace === undefined ? {} : { pace: s.pace }) },
    needs: s.needs,
    abilities,
    places,
    shares: sharedBy(`${d.timeline.id} ${d.source.fingerprint.content}`, s),
    frames: workFrames(s.range.out - s.range.in, d.timeline.rate),
    position,
  }))
}
