import { fail } from '../../../core/problem'

/** A finished deliverable with its proof. */
export default route(
  'GET handover/:id',
  async (session, { params: { id } }) =>
    (await session.handover.one(id)) ?? fail('file.missing', 'This deliverable is not finished.', id),
)
