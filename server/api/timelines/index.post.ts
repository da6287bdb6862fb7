import { z } from 'zod'

const schema = z.object({
  media: placeSchema,
  cuts: placeSchema.optional(),
  show: z.string().trim().min(1).optional(),
  name: z.string().trim().min(1).optional(),
})

/** Brings in a media file, with its edit decision list when there is one. */
export default route(async (engine, event) => {
  const { media, ...options } = await body(event, schema)
  return engine.shown(await engine.timelines.bringIn(media, options))
})
