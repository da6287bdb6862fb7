import { lastEntries } from '../../engine/logbook'

/** The last entries of the log, the newest first. */
export default route('GET log', async (session) => lastEntries(session.folders.data, 100))
