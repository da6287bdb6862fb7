/** Keeps a timeline’s split. */
export default route('PUT timelines/:id/split', async (session, { body, params }) => ({
  version: await session.timelines.saveSplit(params.id, body.split, body.version),
}))
