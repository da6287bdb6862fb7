import type { Finished, FinishedSummary } from '../../contract/runs'
import type { Verdict } from '../../core/spec/judge'
import type { Db, DeliverableRow } from '../store/database'
import { deliverableRow, frozenOf, proofOf } from '../store/deliverables'

/** What is finished, for who takes it over: newest first in lists, with its proof one by one. */
export class Handover {
  constructor(private readonly db: Db) {}

  async one(deliverable: string): Promise<Finished | null> {
    const row = await deliverableRow(this.db, deliverable)
    const proof = row.state === 'done' ? proofOf(row) : null
    return (
      proof && {
        item: frozenOf(row),
        proof,
        path: row.final_path!,
        finished: row.finished ?? '',
        run: row.run_id,
      }
    )
  }

  /** The newest that was delivered under an identity, with its proof; null when there is none. */
  async newestAs(identity: string): Promise<Finished | null> {
    const row = await this.db
      .selectFrom('deliverable')
      .select('id')
      .where('identity', '=', identity)
      .where('state', '=', 'done')
      .orderBy('finished', 'desc')
      .executeTakeFirst()
    return row ? this.one(row.id) : null
  }

  /** Everything finished, newest first, as lists show it. */
  async list(): Promise<FinishedSummary[]> {
    const rows = await this.db
      .selectFrom('deliverable')
      .select(['id', 'final_path', 'region', 'outlet_id', 'outlet', 'verdict', 'bytes', 'finished', 'trial'])
      .where('state', '=', 'done')
      .orderBy('finished', 'desc')
      .execute()
    return rows.map(finishedSummary)
  }

  /** A finished deliverable as lists show it; null when it is not. */
  async summary(deliverable: string): Promise<FinishedSummary | null> {
    const row = await deliverableRow(this.db, deliverable)
    return row.state === 'done' ? finishedSummary(row) : null
  }
}

function finishedSummary(
  row: Pick<
    DeliverableRow,
    'id' | 'final_path' | 'region' | 'outlet_id' | 'outlet' | 'verdict' | 'bytes' | 'finished' | 'trial'
  >,
): FinishedSummary {
  return {
    id: row.id,
    path: row.final_path!,
    region: row.region,
    outletId: row.outlet_id,
    outlet: row.outlet,
    verdict: row.verdict as Verdict,
    bytes: row.bytes,
    finished: row.finished ?? '',
    trial: row.trial === 1,
  }
}
