/** The file of a flattened timeline, in ranges, for playing it in the browser. */
export default route('GET timelines/:id/media', async (session, { params, event }) =>
  sendRange(event, await session.viewing.media(await session.timelines.get(params.id))),
)
