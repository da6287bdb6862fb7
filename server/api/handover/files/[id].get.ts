import { mainFile } from '../../../../core/deliverable/proof'
import { summedFile } from '../../../../core/deliverable/manifest'
import { chiefSum } from '../../../../core/files/checksums'
import { fail } from '../../../../core/problem'

/**
 * A finished file, in ranges, for looking at it in the browser; of a run of stills the list of their sums. `?beside=`:
 * what lies beside it, by its role.
 */
export default route('GET handover/files/:id', async (session, { params, event }) => {
  const done =
    (await session.handover.one(params.id)) ?? fail('file.missing', 'This deliverable is not finished.', params.id)
  const { beside } = getQuery(event)
  const artefact = beside === undefined ? mainFile(done.proof) : done.proof.files.find((f) => f.role === beside)
  if (!artefact) fail('file.missing', 'There is no such file beside this one.', done.path)
  const kind = chiefSum(artefact.sums)?.kind
  const file = beside === undefined && kind ? summedFile(done.path, kind) : artefact.path
  return sendRange(event, session.roots.resolve(done.item.target.root, file))
})
