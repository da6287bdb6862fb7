import { paceOf, type Paces } from '../job/paces'
import { forecastSeconds } from '../job/steps'
import { makingSteps, takingSteps } from '../job/taking'
import { programmeFrames } from '../lineup/lineup'
import type { JudgedDraft } from './judged'
import type { EarlierFile, FrozenDeliverable } from './sheet'

/**
 * A judged draft whose pictures are taken, coded as they are, from another file that is proven: sound, chapters, papers
 * and the file around them are made anew. `after`: the step that proves that one, where it is of the same run.
 */
export function takingFrom(
  d: JudgedDraft,
  earlier: EarlierFile,
  paces: Paces,
  after: string | null = null,
): JudgedDraft {
  const { timeline } = d.draft
  const whole = { in: 0, out: programmeFrames(d.output) }
  const steps = takingSteps(d.steps, whole, (kind) => paceOf(kind, timeline.info, d.output), after)
  const note = after
    ? `Its pictures would be those of ${earlier.path}, of the same run: they are coded once.`
    : `Its pictures would be those of ${earlier.path}, which was proven: they are taken from there.`
  return {
    ...d,
    ...{ steps, earlier, seconds: forecastSeconds(steps, d.output, timeline.model.rate, paces) },
    output: { ...d.output, notes: [...(d.output.notes ?? []), note] },
  }
}

/** A frozen deliverable with all of its pictures made from the timeline. */
export function makingAll({ earlier: _, ...d }: FrozenDeliverable): FrozenDeliverable {
  return { ...d, steps: makingSteps(d.steps).map((s) => ({ ...s, needs: [...s.needs], abilities: [...s.abilities] })) }
}
