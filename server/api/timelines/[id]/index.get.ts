/** One timeline with its sources and what was found in it. */
export default route('GET timelines/:id', async (session, { params }) =>
  session.viewing.shown(await session.timelines.get(params.id)),
)
