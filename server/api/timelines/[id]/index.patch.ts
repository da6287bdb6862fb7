import { z } from 'zod'

const schema = z.object({ name: z.string().trim().min(1).optional(), cuts: placeSchema.optional() })

/** Renames a timeline, or gives it its cuts. */
export default route(async (engine, event) => {
  const { name, cuts } = await body(event, schema)
  const id = param(event, 'id')
  if (name) await engine.timelines.rename(id, name)
  if (cuts) await engine.timelines.attachCuts(id, cuts)
  return engine.timelines.get(id)
})
