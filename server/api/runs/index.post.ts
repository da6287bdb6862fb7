import { z } from 'zod'

const schema = z.object({
  name: z.string().trim().min(1),
  workers: z.number().int().min(1).max(64),
  keys: z.array(z.string()).nullable(),
})

/** Freezes cleared deliverables and starts the night. */
export default route(async (engine, event) => {
  const { name, workers, keys } = await body(event, schema)
  return { id: await engine.startRun(name, workers, keys) }
})
