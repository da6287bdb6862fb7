import { isMade, placed, timelineRanges } from '../lineup/lineup'
import { pieces } from '../time/range'
import { nominalRate, type Seconds } from '../time/rate'
import type { Step, StepRequest } from './recipe'

/** Into how many segments pictures are cut, as far as they are neither too short nor too long. */
const wanted = 16
/** Shorter ones would spend more on getting to their first picture; longer ones would lose more with a worker. */
const [shortest, longest]: readonly [Seconds, Seconds] = [4, 24]

/**
 * Steps that make the pictures of a timeline, which may be worked on at the same time. They are cut alike for every
 * recipe, so that deliverables of one region can share what they read.
 */
export function segmentSteps(
  kind: string,
  { output, range, rate }: Pick<StepRequest, 'output' | 'range' | 'rate'>,
  abilities: readonly string[],
): Step[] {
  const second = nominalRate(rate)
  const seconds = Math.ceil((range.out - range.in) / second / wanted)
  const size = second * Math.max(shortest, Math.min(longest, seconds))
  const cut = timelineRanges(output, range).flatMap((own) => pieces(own, size))
  return cut.map((part, i) => ({
    key: `segment-${i}`,
    kind,
    needs: [],
    range: part,
    abilities,
  }))
}

/** Steps that make what is not of the timeline, in frames of the file. */
export function lineUpSteps({ output }: StepRequest): Step[] {
  return placed(output)
    .filter(isMade)
    .map((s, i) => ({
      key: `line-up-${i}`,
      kind: 'line-up',
      needs: [],
      range: { in: s.at, out: s.at + s.frames },
      abilities: [],
    }))
}
