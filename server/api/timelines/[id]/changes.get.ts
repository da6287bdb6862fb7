/** What changed in a timeline against the version before it. */
export default route(async (session, event) => session.timelines.changes(param(event, 'id')))
