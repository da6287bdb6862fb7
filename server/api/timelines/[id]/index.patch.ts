import { z } from 'zod'

const schema = z.object({ name: z.string().trim().min(1).optional(), cuts: placeSchema.optional(), shift: z.number().int().min(-1000).max(1000).optional() })

/** Renames a timeline, gives it its cuts, or moves them. */
export default route(async (engine, event) => {
  const { name, cuts, shift } = await body(event, schema)
  const id = param(event, 'id')
  if (name) await engine.timelines.rename(id, name)
  if (cuts) await engine.timelines.attachCuts(id, cuts)
  if (shift) await engine.timelines.shiftCuts(id, shift)
  return engine.shown(await engine.timelines.get(id))
})
