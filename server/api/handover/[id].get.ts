import { fail } from '../../../core/problem'

/** A finished deliverable with its proof. */
export default route(async (session, event) => {
  const id = param(event, 'id')
  const finished = await session.runs.proof(id)
  return finished ?? fail('file.missing', 'This deliverable is not finished.', id)
})
