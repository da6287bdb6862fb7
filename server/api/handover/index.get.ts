import { finishedSummary } from '../../../contract/runs'

/** Everything finished and proven, newest first, as lists show it. */
export default route('GET handover', async (session) => (await session.runs.handover()).map(finishedSummary))
