/** The folder that is watched for new timelines, and what could not be brought in from it. */
export default route('GET watch', async (session) => session.watcher.state())
