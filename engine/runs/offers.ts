import type { FrozenDeliverable } from '../../core/deliverable/sheet'
import { sharedBy } from '../../core/job/steps'
import type { Abilities } from '../../core/recipe/output'
import { workFrames } from '../../core/time/samples'
import { reads, writes, type OfferedStep } from '../queue/port'
import { rootsOfDeliverable } from '../worker/aside'

/**
 * The steps of a frozen deliverable as the queue takes them. Each asks of a worker what all of them need, since what
 * one makes the next looks at: the storage roots, the codecs of its source, and those of the file where this machine
 * can decode it.
 */
export function offersOf(run: string, position: number, d: FrozenDeliverable, able: Abilities): OfferedStep[] {
  const { video, audio } = d.output
  const written = [video?.codec, audio?.codec].filter((c) => c !== undefined && able.decodes.includes(c))
  const abilities = [...new Set([...d.steps.flatMap((s) => s.abilities), ...written.map((c) => `decode:${c}`)])]
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
