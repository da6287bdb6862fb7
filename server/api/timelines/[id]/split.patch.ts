import { splitPatchSchema } from '../../../../contract/timelines'

/** Keeps what changed of a timeline's split. */
export default route(async (session, event) => {
  const { patch, version } = await body(event, splitPatchSchema)
  return { version: await session.timelines.patchSplit(param(event, 'id'), patch, version) }
})
