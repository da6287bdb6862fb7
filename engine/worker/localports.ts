import { SqliteQueue } from '../queue/sqlite'
import { ClaimLost } from '../queue/port'
import type { Roots } from '../storage/roots'
import type { Db } from '../store/database'
import { frozenOf } from '../store/deliverables'
import { readFacts, writeFact } from '../store/facts'
import { installationOf } from '../store/settings'
import { machineCodecs } from './codecs'
import type { Sheets, WorkerPorts } from './ports'
import type { Proof } from '../../core/deliverable/proof'
import { SourceCache } from './sourcecache'

/** A worker's ports onto the database and the disks of this machine. */
export async function localPorts(db: Db, storage: Roots, cache: string): Promise<WorkerPorts> {
  const codecs = machineCodecs()
  return {
    queue: new SqliteQueue(db),
    facts: { read: (keys) => readFacts(db, keys), write: (key, value) => writeFact(db, key, value) },
    sheets: storedSheets(db),
    storage,
    cache,
    installation: await installationOf(db),
    codecs,
    sources: new SourceCache(storage, codecs),
  }
}

function storedSheets(db: Db): Sheets {
  return {
    async frozen(id) {
      const row = await db.selectFrom('deliverable').select('sheet').where('id', '=', id).executeTakeFirst()
      return row ? frozenOf(row) : null
    },
    async noted(id) {
      const row = await db
        .selectFrom('deliverable')
        .select(['result', 'final_path'])
        .where('id', '=', id)
        .executeTakeFirst()
      return row?.result && row.final_path ? { path: row.final_path, proof: JSON.parse(row.result) as Proof } : null
    },
    async note(claim, path, proof) {
      const held = db
        .selectFrom('step')
        .select('deliverable_id')
        .where('id', '=', claim.step)
        .where('fence', '=', claim.fence)
        .where('worker', '=', claim.worker)
        .where('state', '=', 'claimed')
      const r = await db
        .updateTable('deliverable')
        .set({ result: JSON.stringify(proof), final_path: path, verdict: proof.verdict })
        .where('id', 'in', held)
        .executeTakeFirst()
      if (r.numUpdatedRows === 0n) throw new ClaimLost()
    },
    async siblings(run, outlet) {
      const rows = await db
        .selectFrom('deliverable')
        .selectAll()
        .where('run_id', '=', run)
        .where('outlet_id', '=', outlet)
        .orderBy('position')
        .execute()
      return rows.map((row) => ({
        deliverable: frozenOf(row),
        path: row.state === 'done' || row.state === 'running' ? row.final_path : null,
        proof: row.result ? (JSON.parse(row.result) as Proof) : null,
        done: row.state === 'done',
      }))
    },
  }
}
