import { deliverableOf } from '../../contract/deliverables'

/** Every deliverable of every timeline, judged. */
export default route(async (session) => (await session.nights.judged()).map(deliverableOf))
