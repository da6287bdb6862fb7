import { runStartSchema } from '../../../contract/runs'

/** Freezes cleared deliverables and starts the night. */
export default route(async (session, event) => {
  const { name, workers, keys } = await body(event, runStartSchema)
  return { id: await session.nights.start(name, workers, keys) }
})
