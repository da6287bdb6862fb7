/** All timelines with their sources and what was found in them. */
export default route(async (engine) => Promise.all((await engine.timelines.list()).map((t) => engine.shown(t))))
