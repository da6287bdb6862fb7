import { summedFile } from '../../../../core/deliverable/manifest'
import { fail } from '../../../../core/problem'

/** A finished file, in ranges, for looking at it in the browser; of a run of stills the list of their sums. */
export default route('GET handover/files/:id', async (session, { params, event }) => {
  const proof =
    (await session.handover.one(params.id)) ?? fail('file.missing', 'This deliverable is not finished.', params.id)
  return sendRange(event, session.roots.resolve(proof.item.target.root, summedFile(proof.path)))
})
