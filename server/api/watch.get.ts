/** The folder that is watched for new timelines, and what could not be brought in from it. */
export default route(async (session) => session.watcher.state())
