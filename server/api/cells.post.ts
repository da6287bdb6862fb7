import { z } from 'zod'
import { overridesSchema } from '../../core/recipe/recipe'

const cells = z
  .array(z.object({ timelineId: z.string(), regionId: z.string(), outletId: z.string() }))
  .min(1)
  .max(20_000)
const schema = z.discriminatedUnion('action', [
  z.object({ action: z.literal('choose'), cells, chosen: z.boolean() }),
  z.object({ action: z.literal('override'), cells, values: overridesSchema, reset: z.array(z.string()).default([]) }),
  z.object({
    action: z.literal('waive'),
    cells,
    rule: z.string(),
    reason: z.string().trim().min(1, 'give a reason'),
    initials: z.string().trim().min(1, 'give your initials').max(8),
  }),
  z.object({ action: z.literal('unwaive'), cells, rule: z.string() }),
])

/** Changes deliverables: chosen or not, overridden values, waivers. */
export default route(async (engine, event) => {
  const c = await body(event, schema)
  switch (c.action) {
    case 'choose':
      await engine.outlets.choose(c.cells, c.chosen)
      break
    case 'override':
      await engine.outlets.override(c.cells, c.values, c.reset)
      break
    case 'waive':
      await engine.outlets.waive(c.cells, {
        rule: c.rule,
        reason: c.reason,
        initials: c.initials,
        at: new Date().toISOString(),
      })
      break
    case 'unwaive':
      await engine.outlets.unwaive(c.cells, c.rule)
      break
  }
  return { done: true }
})
