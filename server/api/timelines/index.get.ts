/** All timelines with their sources and what was found in them. */
export default route('GET timelines', async (session) =>
  Promise.all((await session.timelines.list()).map((t) => session.viewing.shown(t))),
)
