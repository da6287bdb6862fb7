import { runDeliverableChangeSchema } from '../../../../contract/runs'

/** Skips a deliverable of a run, or runs it again. */
export default route(async (session, event) => {
  const { action } = await body(event, runDeliverableChangeSchema)
  await (action === 'skip' ? session.runs.skip(param(event, 'id')) : session.runs.again(param(event, 'id')))
  return { done: true }
})
