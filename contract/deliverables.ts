import { z } from 'zod'
import type { FixableResult, JudgedDraft } from '../core/deliverable/judged'
import { deliverableKeySchema, type DeliverableKey } from '../core/deliverable/outlet'
import type { Output } from '../core/recipe/output'
import type { Overrides, Recipe } from '../core/recipe/recipe'
import { overridesSchema } from '../core/recipe/registry'
import type { Verdict } from '../core/spec/judge'

const keys = z.array(deliverableKeySchema).min(1).max(20_000)

/** What can be decided of deliverables: chosen or not, overridden values, waivers. */
export const deliverableChangeSchema = z.discriminatedUnion('action', [
  z.object({ action: z.literal('choose'), keys, chosen: z.boolean() }),
  z.object({ action: z.literal('override'), keys, values: overridesSchema, reset: z.array(z.string()).default([]) }),
  z.object({
    action: z.literal('waive'),
    keys,
    rule: z.string(),
    reason: z.string().trim().min(1, 'give a reason'),
    initials: z.string().trim().min(1, 'give your initials').max(8),
  }),
  z.object({ action: z.literal('unwaive'), keys, rule: z.string() }),
])
export type DeliverableChange = z.input<typeof deliverableChangeSchema>

/** One region for one outlet as the stations show it. */
export interface Deliverable extends DeliverableKey {
  readonly title: string
  readonly recipe: Recipe
  readonly overrides: Overrides
  /** Below the outlet's root. */
  readonly path: string
  readonly version: number
  readonly output: Output
  readonly results: readonly FixableResult[]
  readonly verdict: Verdict
  readonly cleared: boolean
  readonly pending: boolean
  readonly soundPending: boolean
  /** Seconds on one worker. */
  readonly seconds: number
}

export function deliverableOf({ draft, ...judged }: JudgedDraft): Deliverable {
  return { ...draft.key, ...judged, recipe: draft.recipe, overrides: draft.overrides }
}
