import { z } from 'zod'

/** Skips a deliverable of a run, or runs it again. */
export default route(async (engine, event) => {
  const { action } = await body(event, z.object({ action: z.enum(['skip', 'again']) }))
  await (action === 'skip' ? engine.runs.skip(param(event, 'id')) : engine.runs.again(param(event, 'id')))
  return { done: true }
})
