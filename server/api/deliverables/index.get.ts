/** Every deliverable of every timeline, as lists show it. */
export default route('GET deliverables', (session) => session.live.list())
