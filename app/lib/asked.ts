import type { Expectation } from '../../core/measure/measure'
import { useDeliverables } from '../stores/deliverables'
import { useShelf } from '../stores/shelf'

/** What the first outlet of the timeline in hand that asks for a measure expects of it; null when none asks. */
export function askedOf(measure: string): Expectation | null {
  for (const id of new Set(useDeliverables().ofTimeline.map((d) => d.outletId)))
    for (const rule of useShelf().specOf(id)?.rules ?? []) if (rule.measure === measure) return rule.expect
  return null
}
