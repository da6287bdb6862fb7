/** Every deliverable of every timeline, as lists show it. */
export default route((session) => session.live.list())
