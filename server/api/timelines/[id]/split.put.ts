import { splitPutSchema } from '../../../../contract/timelines'

/** Keeps a timeline's split. */
export default route(async (session, event) => {
  const { split, version } = await body(event, splitPutSchema)
  return { version: await session.timelines.saveSplit(param(event, 'id'), split, version) }
})
