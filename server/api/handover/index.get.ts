/** Everything finished and proven, newest first, as lists show it. */
export default route('GET handover', (session) => session.handover.list())
