import { pieces } from '../time/range'
import { nominalRate, type Seconds } from '../time/rate'
import type { Step, StepRequest } from './recipe'

/** Steps that make the pictures, a few seconds each, which may be worked on at the same time. */
export function segmentSteps(
  kind: string,
  seconds: Seconds,
  { range, rate }: Pick<StepRequest, 'range' | 'rate'>,
  abilities: readonly string[],
): Step[] {
  return pieces(range, nominalRate(rate) * seconds).map((part, i) => ({
    key: `segment-${i}`,
    kind,
    needs: [],
    range: part,
    abilities,
  }))
}
