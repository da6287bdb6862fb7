/** Watches a folder for new timelines, or none any more. */
export default route('PUT watch', async (session, { body }) => session.watcher.watch(body.folder))
