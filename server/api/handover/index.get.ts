import { finishedSummary } from '../../../contract/runs'

/** Everything finished and proven, newest first, as lists show it. */
export default route(async (session) => (await session.runs.handover()).map(finishedSummary))
