/** Everything finished and proven, newest first. */
export default route((session) => session.runs.handover())
