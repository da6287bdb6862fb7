/** One timeline with its sources and what was found in it. */
export default route(async (session, event) => session.viewing.shown(await session.timelines.get(param(event, 'id'))))
