/** Keeps what changed of a timeline’s split. */
export default route('PATCH timelines/:id/split', async (session, { body, params }) => ({
  version: await session.timelines.patchSplit(params.id, body.patch, body.version),
}))
