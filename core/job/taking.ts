import type { FrameRange } from '../time/range'
import type { Step } from '../recipe/recipe'
import { stepKind, stepKinds } from './steps'

/** The name of the step that holds an earlier file against its proof. */
export const earlierKey = 'earlier'

const takingOf = (kind: string) => stepKind(kind).taking
const makingOf = (kind: string) => stepKinds.find((k) => k.taking === kind)?.kind

/** Whether a kind of step gives coded pictures that a later file can take as they are. */
export const codesPictures = (kind: string): boolean =>
  !stepKind(kind).proof && (takingOf(kind) !== undefined || makingOf(kind) !== undefined)

/**
 * The steps of a deliverable with its pictures taken, coded as they are, from an earlier file: that is held against its
 * proof first; where it is not what was proven any more, they are made after all. `whole` are the frames of the file,
 * `pace` says what the pace of a kind is known by, `after` is the step that proves the earlier file where that is of
 * the same run.
 */
export function takingSteps(
  steps: readonly Step[],
  whole: FrameRange,
  pace: (kind: string) => string,
  after: string | null = null,
): Step[] {
  const needs = after === null ? [] : [after]
  const check = { key: earlierKey, kind: 'check-earlier', needs, range: whole, abilities: [] }
  const taking = steps.map((s) => {
    const needs = [...s.needs, earlierKey]
    const kind = takingOf(s.kind)
    if (kind !== undefined) return { ...s, kind, pace: pace(kind), needs }
    return stepKind(s.kind).proof ? { ...s, needs } : s
  })
  return [{ ...check, pace: pace(check.kind) }, ...taking]
}

/** The same steps with all pictures made; nothing is known of the pace of those any more. */
export function makingSteps(steps: readonly Step[]): Step[] {
  return steps
    .filter((s) => s.key !== earlierKey)
    .map((s) => {
      const kind = makingOf(s.kind)
      const needs = s.needs.filter((n) => n !== earlierKey)
      return kind === undefined ? { ...s, needs } : { ...s, kind, pace: undefined, needs }
    })
}
