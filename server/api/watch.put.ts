import { watchSchema } from '../../contract/files'

/** Watches a folder for new timelines, or none any more. */
export default route(async (session, event) => session.watcher.watch((await body(event, watchSchema)).folder))
