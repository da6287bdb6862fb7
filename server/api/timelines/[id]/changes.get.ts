/** What changed in a timeline against the version before it. */
export default route(async (engine, event) => engine.timelines.changes(param(event, 'id')))
