import { z } from 'zod'

const schema = z.object({
  files: z.record(z.string().max(8192), placeSchema).optional(),
  folder: z.object({ root: z.string(), path: z.string().max(4096) }).optional(),
})

/**
 * Looks for a timeline's media again: with files chosen for sources, with a folder to look into first, or as before.
 */
export default route(async (engine, event) =>
  engine.shown(await engine.timelines.relink(param(event, 'id'), await body(event, schema))),
)
