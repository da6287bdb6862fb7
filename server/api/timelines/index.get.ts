/** All timelines with what was found in them. */
export default route(async engine => Promise.all((await engine.timelines.list()).map(async t => ({ ...t, mediaProblem: await engine.timelines.mediaProblem(t), analysis: await engine.analysis(t) }))))
