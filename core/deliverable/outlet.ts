import { z } from 'zod'
import { checksumsSchema } from '../files/checksums'
import { fail } from '../problem'
import type { Output } from '../recipe/output'
import type { Overrides, Recipe } from '../recipe/recipe'
import { recipeSchema } from '../recipe/registry'
import { isTrial } from '../recipe/trial'
import type { Waiver } from '../spec/waiver'
import { rulesFor, type Rule, type RuledAs, type Spec } from '../spec/spec'
import { kindNames } from '../split/kinds'
import type { Region } from '../split/region'

/** Who receives: a recipe, a spec, a name pattern, a destination. */
export const outletSchema = z.object({
  id: z.string().min(1),
  name: z.string().trim().min(1, 'give the outlet a name'),
  recipe: recipeSchema,
  /** Id of a spec on the shelf. */
  spec: z.string(),
  pattern: z.string().min(1),
  root: z.string(),
  folder: z.string(),
  /** The kinds of region it asks for; absent or none: it takes what it is sent. */
  kinds: z.array(z.enum(kindNames)).optional(),
  /** The checksums it is sent; absent: the usual ones. */
  checksums: checksumsSchema.optional(),
})
export type Outlet = z.infer<typeof outletSchema>

/** What names a deliverable before it is frozen: one region for one outlet. */
export const deliverableKeySchema = z.object({ timelineId: z.string(), regionId: z.string(), outletId: z.string() })
export type DeliverableKey = z.infer<typeof deliverableKeySchema>

/** Says that a region goes to an outlet no more: somebody took it away meanwhile. */
export function notSent(): never {
  return fail(
    'deliverable.unknown',
    'This region does not go to this outlet any more.',
    undefined,
    'Send it there again at Outlets, if it should.',
  )
}

/** A key as one text, for maps and requests. */
export function keyText(k: DeliverableKey): string {
  return `${k.timelineId}/${k.regionId}/${k.outletId}`
}

/** What a person has decided of a deliverable: whether it is made, what is different for it, what was accepted. */
export interface DeliverableChoice extends DeliverableKey {
  readonly chosen: boolean
  readonly overrides: Overrides
  readonly waivers: readonly Waiver[]
}

/** What an outlet asks of the region itself. */
const rulesOf = ({ kinds }: Pick<Outlet, 'kinds'>): Rule[] =>
  kinds?.length
    ? [{ id: 'outlet-kind', measure: 'region-kind', severity: 'must', expect: { oneOf: kinds }, clause: 'The outlet' }]
    : []

/** Which rules hold for what a recipe makes. */
export const ruledAs = ({ video }: Pick<Output, 'video'>, recipe: Pick<Recipe, 'trial'>): RuledAs => ({
  pictures: video !== null,
  trial: isTrial(recipe),
})

/** Every rule that a deliverable is held against before it is made, in the order of its results. */
export const rulesBefore = (outlet: Pick<Outlet, 'kinds'>, spec: Spec, as: RuledAs): Rule[] => [
  ...rulesFor(spec, 'before', as),
  ...rulesOf(outlet),
]

/** Whether an outlet asks for a region, by what it is. */
export const asksFor = (outlet: Outlet, region: Region): boolean =>
  region.kind !== undefined && (outlet.kinds?.includes(region.kind) ?? false)
