/**
 * Looks for a timeline's media again: with files chosen for sources, with a folder to look into first, or as before.
 */
export default route('POST timelines/:id/link', async (session, { body, params }) =>
  session.viewing.shown(await session.timelines.relink(params.id, body)),
)
