import path from 'node:path'
import { LRUCache } from 'lru-cache'
import type { LookUpTable } from '../../core/picture/table/table'
import { SqliteQueue } from '../queue/sqlite'
import { ClaimLost } from '../queue/port'
import { proofStill } from '../storage/cache'
import { writeWhole } from '../storage/durable'
import type { Roots } from '../storage/roots'
import type { Db } from '../store/database'
import { frozenOf, proofOf, provenColumns } from '../store/deliverables'
import { kept } from '../store/stored'
import { readFacts, writeFact } from '../store/facts'
import { installationOf } from '../store/settings'
import { tableOf } from '../store/tables'
import { machineCodecs } from './codecs'
import type { Facts } from './facts'
import type { Sheets, WorkerPorts } from './ports'
import { SourceCache } from './sources/sourcecache'

/** A worker's ports onto the database and the disks of this machine. */
export async function localPorts(db: Db, storage: Roots, cache: string): Promise<WorkerPorts> {
  const codecs = machineCodecs()
  // every segment asks for its table anew
  const tables = new LRUCache<string, LookUpTable>({ max: 4 })
  const facts: Facts = { read: (keys) => readFacts(db, keys), write: (key, value) => writeFact(db, key, value) }
  return {
    queue: new SqliteQueue(db),
    takenBack: null,
    facts,
    sheets: storedSheets(db, cache),
    table: async (id) => {
      const table = tables.get(id) ?? (await tableOf(db, id))
      tables.set(id, table)
      return table
    },
    storage,
    cache,
    installation: await installationOf(db),
    codecs,
    sources: new SourceCache(storage, codecs, facts),
  }
}

/** What is kept of frozen deliverables in the database, and of their proofs in the cache. */
export function storedSheets(db: Db, cache: string): Sheets {
  return {
    async frozen(id) {
      const row = await db.selectFrom('deliverable').select(['id', 'sheet']).where('id', '=', id).executeTakeFirst()
      return row ? frozenOf(row) : null
    },
    async noted(id) {
      const row = await db
        .selectFrom('deliverable')
        .select(['id', 'result', 'final_path'])
        .where('id', '=', id)
        .executeTakeFirst()
      const proof = row && proofOf(row)
      return proof && row.final_path ? { path: row.final_path, proof } : null
    },
    async note(claim, item, path, proof) {
      const held = db
        .selectFrom('step')
        .select('deliverable_id')
        .where('id', '=', claim.step)
        .where('fence', '=', claim.fence)
        .where('worker', '=', claim.worker)
        .where('state', '=', 'claimed')
      const r = await db
        .updateTable('deliverable')
        .set(provenColumns(item, path, proof))
        .where('id', 'in', held)
        .executeTakeFirst()
      if (r.numUpdatedRows === 0n) throw new ClaimLost()
    },
    async still({ deliverable }, end, jpeg) {
      const name = proofStill(deliverable!, end)
      await writeWhole(path.join(cache, name), jpeg)
      return name
    },
    async siblings(run, outlet) {
      const rows = await db
        .selectFrom('deliverable')
        .select(['id', 'root', 'target', 'state', 'report'])
        .where('run_id', '=', run)
        .where('outlet_id', '=', outlet)
        .orderBy('position')
        .execute()
      return rows.map(({ id, root, target, state, report }) => ({
        target: { root, path: target },
        entry: report === null ? null : kept.reportEntry.read(report, `deliverable ${id}`),
        done: state === 'done',
      }))
    },
  }
}
