import { z } from 'zod'
import { parseRate } from '../../../../core/time/rate'

const schema = z.object({
  name: z.string().trim().min(1).optional(),
  cuts: placeSchema.optional(),
  rate: z
    .string()
    .transform((text, c) => parseRate(text) ?? (c.addIssue('this is no rate'), z.NEVER))
    .optional(),
  shift: z.number().int().min(-1000).max(1000).optional(),
})

/** Renames a timeline, gives it its cuts or (stills) its rate, or moves its cuts. */
export default route(async (engine, event) => {
  const { name, cuts, rate, shift } = await body(event, schema)
  const id = param(event, 'id')
  if (name) await engine.timelines.rename(id, name)
  if (cuts) await engine.timelines.attachCuts(id, cuts)
  if (rate) await engine.timelines.setRate(id, rate)
  if (shift) await engine.timelines.shiftCuts(id, shift)
  return engine.shown(await engine.timelines.get(id))
})
