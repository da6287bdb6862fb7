/** Everything finished and proven, newest first. */
export default route((engine) => engine.runs.handover())
