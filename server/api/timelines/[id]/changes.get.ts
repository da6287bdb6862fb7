/** What changed in a timeline against the version before it. */
export default route('GET timelines/:id/changes', async (session, { params }) => session.timelines.changes(params.id))
