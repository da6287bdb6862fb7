import { sql, type RawBuilder, type Transaction } from 'kysely'
import { mostTogether } from '../../core/job/steps'
import type { Problem } from '../../core/problem'
import type { Frames } from '../../core/time/rate'
import { noteChange } from '../store/changes'
import { learnPace } from '../store/paces'
import { kept } from '../store/stored'
import type { Db, StepRow, Tables } from '../store/database'
import { endDeliverable, problemOf } from '../store/deliverables'
import {
  believedFor,
  ClaimLost,
  mostLost,
  ownDisk,
  type AsideStep,
  type Claim,
  type OfferedStep,
  type Queue,
  type WorkerProfile,
} from './port'

const workerLost: Problem = {
  code: 'worker.lost',
  message: 'The workers that took this step stopped without a word, several times.',
  fix: 'Look at the memory of this machine, then run it again.',
}

/** Order of classes: what people wait for, the long passes, the night, what no night is to wait for. */
const classOf = (s: OfferedStep) => (s.run !== null ? 2 : s.long === 'before' ? 1 : s.long === 'after' ? 3 : 0)

/**
 * The queue in the database. A claim is believed in while its beat moves, by the clock of whoever looks: no two clocks
 * are compared, and one that was set or slept takes nobody's work.
 */
export class SqliteQueue implements Queue {
  private readonly beats = new Map<number, { fence: number; beat: number; since: number }>()
  private looked = -Infinity

  constructor(
    private readonly db: Db,
    private readonly now: () => number = () => performance.now(),
  ) {}

  offer(steps: readonly OfferedStep[]): Promise<void> {
    return inTransaction(this.db, (tx) => offerSteps(tx, steps))
  }

  async claim(worker: WorkerProfile): Promise<Claim | null> {
    await this.takeFromLost()
    const [claim] = await this.take(
      worker,
      sql`(run_id is null or run_id in (select id from run where state = 'running' and workers > ${worker.index}))
        and (class not in (1, 3) or ${worker.index} > 0)`,
      1,
    )
    return claim ?? null
  }

  async companions(claim: Claim, worker: WorkerProfile): Promise<Claim[]> {
    if (claim.shares === null) return []
    const alike = sql`shares = ${claim.shares} and lost = 0
      and run_id in (select id from run where id = ${claim.run} and state = 'running')`
    return this.take(worker, alike, mostTogether - 1)
  }

  /** Claims up to `most` steps that are ready, that a worker can do, and for which a condition holds. */
  private async take(worker: WorkerProfile, holds: RawBuilder<unknown>, most: number): Promise<Claim[]> {
    const { rows } = await sql<StepRow>`
      update step set state = 'claimed', worker = ${worker.id}, fence = fence + 1, beat = 0, frames_done = 0,
        started = ${Date.now()}
      where id in (
        select id from step where state = 'ready' and ${holds}
          and not exists (select 1 from json_each(step.abilities) needed
            where needed.value not in (select value from json_each(${JSON.stringify(worker.abilities)})))
          and (${worker.places === null ? 1 : 0} or not exists (select 1 from json_each(step.places) place
            where place.value not in (select value from json_each(${JSON.stringify(worker.places ?? [])}))))
        order by class, run_order, position, id limit ${most})
      returning *`.execute(this.db)
    for (const row of rows) await this.begin(row)
    return rows.map(claimOf)
  }

  /** A deliverable is running once a step of it is in hand. */
  private async begin({ deliverable_id, run_id }: StepRow): Promise<void> {
    if (!deliverable_id) return
    const begun = await this.db
      .updateTable('deliverable')
      .set({ state: 'running', started: new Date().toISOString() })
      .where('id', '=', deliverable_id)
      .where('state', '=', 'waiting')
      .executeTakeFirst()
    if (begun.numUpdatedRows > 0n) await noteChange(this.db, 'run', run_id!)
  }

  async renew(claim: Claim, framesDone: Frames): Promise<void> {
    const r = await this.row(this.db, claim)
      .set((e) => ({ beat: e('beat', '+', 1), frames_done: framesDone }))
      .executeTakeFirst()
    if (r.numUpdatedRows === 0n) throw new ClaimLost()
  }

  async results(claim: Claim): Promise<ReadonlyMap<string, unknown>> {
    const rows = await this.db
      .selectFrom('step_need')
      .innerJoin('step', 'step.id', 'step_need.need_id')
      .select(['step.key', 'step.deliverable_id', 'step.result'])
      .where('step_need.step_id', '=', claim.step)
      .orderBy('step.id')
      .execute()
    const own = (id: string | null, key: string) => (id === claim.deliverable ? key : `${id}/${key}`)
    return new Map(rows.map((r) => [own(r.deliverable_id, r.key), JSON.parse(r.result ?? 'null') as unknown]))
  }

  async finish(claim: Claim, result: unknown): Promise<void> {
    await inTransaction(this.db, async (tx) => {
      const r = await this.row(tx, claim)
        .set({
          state: 'done',
          finished: Date.now(),
          frames_done: claim.frames,
          result: JSON.stringify(result ?? null),
          worker: null,
        })
        .returning('started')
        .executeTakeFirst()
      if (!r) throw new ClaimLost()
      const { pace } = claim.payload as { pace?: string }
      const seconds = r.started && (Date.now() - r.started) / 1000 / claim.together
      if (pace !== undefined && seconds) await learnPace(tx, pace, claim.frames, seconds)
      await readyAfter(tx, claim.step)
      if (!claim.deliverable) return
      const left = await tx
        .selectFrom('step')
        .select('id')
        .where('deliverable_id', '=', claim.deliverable)
        .where('state', '!=', 'done')
        .executeTakeFirst()
      if (!left) await endDeliverable(tx, claim.deliverable, 'done', null)
    })
    await noteChange(this.db, claim.run ? 'run' : 'facts', claim.run ?? claim.key)
  }

  async fail(claim: Claim, problem: Problem): Promise<void> {
    await inTransaction(this.db, async (tx) => {
      const r = await this.row(tx, claim)
        .set({ state: 'failed', finished: Date.now(), problem: kept.problem.write(problem), worker: null })
        .executeTakeFirst()
      if (r.numUpdatedRows === 0n) throw new ClaimLost()
      if (claim.deliverable) await endDeliverable(tx, claim.deliverable, 'failed', problem)
    })
    await noteChange(this.db, claim.run ? 'run' : 'facts', claim.run ?? claim.key)
  }

  async release(claim: Claim): Promise<void> {
    // who gives back writes no more: two that each cut the other off would otherwise never end
    await this.row(this.db, claim).set({ state: 'ready', worker: null, frames_done: 0, interrupted: 0 }).execute()
  }

  async setAside(claim: Claim, roots: readonly string[], problem: Problem): Promise<void> {
    await this.row(this.db, claim)
      .set((e) => ({
        state: 'aside',
        worker: null,
        frames_done: 0,
        interrupted: 0,
        aside_for: kept.rootNames.write([...roots]),
        problem: kept.problem.write(problem),
        stumbles: e('stumbles', '+', 1),
      }))
      .execute()
    await noteChange(this.db, claim.run ? 'run' : 'facts', claim.run ?? claim.key)
  }

  async aside(): Promise<AsideStep[]> {
    const rows = await this.db
      .selectFrom('step')
      .select(['id', 'aside_for', 'problem'])
      .where('state', '=', 'aside')
      .execute()
    return rows.map((row) => ({
      step: row.id,
      roots: kept.rootNames.read(row.aside_for ?? '[]', `step ${row.id}`),
      problem: problemOf(row)!,
    }))
  }

  async takeUp(step: number): Promise<void> {
    const row = await this.asideRow(step)
      .set({ state: 'ready', problem: null, aside_for: null })
      .returning(['run_id', 'key'])
      .executeTakeFirst()
    if (row) await noteChange(this.db, row.run_id ? 'run' : 'facts', row.run_id ?? row.key)
  }

  async giveUp(step: number, problem: Problem): Promise<void> {
    const row = await inTransaction(this.db, async (tx) => {
      const given = await this.asideRow(step, tx)
        .set({ state: 'failed', finished: Date.now(), problem: kept.problem.write(problem), aside_for: null })
        .returning(['run_id', 'deliverable_id', 'key'])
        .executeTakeFirst()
      if (given?.deliverable_id) await endDeliverable(tx, given.deliverable_id, 'failed', problem)
      return given
    })
    if (row) await noteChange(this.db, row.run_id ? 'run' : 'facts', row.run_id ?? row.key)
  }

  private asideRow(step: number, db: Db | Transaction<Tables> = this.db) {
    return db.updateTable('step').where('id', '=', step).where('state', '=', 'aside')
  }

  async abandon(worker: string): Promise<void> {
    const held = this.db.selectFrom('step').selectAll().where('state', '=', 'claimed').where('worker', '=', worker)
    for (const row of await held.execute()) await this.lose(row)
  }

  async reclaim(workers: string): Promise<void> {
    await this.db
      .updateTable('step')
      .set({ state: 'ready', worker: null, frames_done: 0, interrupted: 1 })
      .where('state', '=', 'claimed')
      .where(sql<boolean>`substr(worker, 1, ${workers.length}) = ${workers}`)
      .execute()
  }

  async takeBack(claim: Claim): Promise<boolean> {
    const r = await this.row(this.db, claim)
      .where('run_id', 'in', this.db.selectFrom('run').select('id').where('workers', '>', 0))
      .set({ state: 'ready', worker: null, frames_done: 0, interrupted: 0, places: JSON.stringify([ownDisk]) })
      .executeTakeFirst()
    return r.numUpdatedRows > 0n
  }

  async held({ step, fence, worker }: Pick<Claim, 'step' | 'fence' | 'worker'>): Promise<Claim> {
    const row = await this.db
      .selectFrom('step')
      .selectAll()
      .where('id', '=', step)
      .where('fence', '=', fence)
      .where('worker', '=', worker)
      .where('state', '=', 'claimed')
      .executeTakeFirst()
    if (!row) throw new ClaimLost()
    return claimOf(row)
  }

  /** What a claim holds, as long as it holds it. */
  private row(db: Db | Transaction<Tables>, claim: Claim) {
    return db
      .updateTable('step')
      .where('id', '=', claim.step)
      .where('fence', '=', claim.fence)
      .where('worker', '=', claim.worker)
      .where('state', '=', 'claimed')
  }

  /** Takes steps out of hands that have not moved for too long. */
  private async takeFromLost(): Promise<void> {
    const now = this.now()
    if (now - this.looked < believedFor / 10) return
    this.looked = now
    const rows = await this.db.selectFrom('step').selectAll().where('state', '=', 'claimed').execute()
    for (const id of this.beats.keys()) if (!rows.some((r) => r.id === id)) this.beats.delete(id)
    for (const row of rows) {
      const seen = this.beats.get(row.id)
      if (seen?.fence !== row.fence || seen.beat !== row.beat)
        this.beats.set(row.id, { fence: row.fence, beat: row.beat, since: now })
      else if (now - seen.since >= believedFor) await this.lose(row)
    }
  }

  /** Whether a name and a proof are noted for a deliverable: its file may bear the name, so it must not fail now. */
  private async isNoted(deliverable: string | null): Promise<boolean> {
    if (deliverable === null) return false
    const row = await this.db
      .selectFrom('deliverable')
      .select('id')
      .where('id', '=', deliverable)
      .where('final_path', 'is not', null)
      .executeTakeFirst()
    return row !== undefined
  }

  /** A step whose worker is gone goes to the next who asks; one that takes worker after worker down fails. */
  private async lose(row: StepRow): Promise<void> {
    const claim = claimOf(row)
    if (row.lost + 1 >= mostLost && !(await this.isNoted(row.deliverable_id))) {
      await this.fail(claim, workerLost).catch(() => undefined)
      return
    }
    await this.row(this.db, claim)
      .where('beat', '=', row.beat)
      .set({ state: 'ready', worker: null, frames_done: 0, lost: row.lost + 1, interrupted: 1 })
      .execute()
  }
}

function claimOf(row: StepRow): Claim {
  return {
    step: row.id,
    fence: row.fence,
    worker: row.worker ?? '',
    run: row.run_id,
    deliverable: row.deliverable_id,
    key: row.key,
    kind: row.kind,
    payload: JSON.parse(row.payload) as unknown,
    frames: row.frames_total,
    takenOver: row.interrupted === 1,
    stumbles: row.stumbles,
    // what took a worker down before is done alone, so that it takes no others with it
    shares: row.lost > 0 ? null : row.shares,
    together: 1,
  }
}

/** Transactions do not nest: within one, its own is used. */
export function inTransaction<T>(db: Db, work: (tx: Transaction<Tables>) => Promise<T>): Promise<T> {
  return db.isTransaction ? work(db as Transaction<Tables>) : db.transaction().execute(work)
}

/** Steps that needed nothing but this one can begin. */
async function readyAfter(tx: Transaction<Tables>, step: number): Promise<void> {
  await sql`update step set state = 'ready' where state = 'waiting'
    and id in (select step_id from step_need where need_id = ${step})
    and not exists (select 1 from step_need n join step s on s.id = n.need_id
      where n.step_id = step.id and s.state <> 'done')`.execute(tx)
}

/** Adds steps; background work that is there already, under its key, is not added again. */
async function offerSteps(tx: Transaction<Tables>, steps: readonly OfferedStep[]): Promise<void> {
  const ids = new Map<string, number>()
  const orders = new Map<string, string>()
  for (const s of steps) {
    if (s.run === null && !(await makeRoom(tx, s.key))) continue
    if (s.run !== null && !orders.has(s.run)) {
      const run = await tx.selectFrom('run').select('created').where('id', '=', s.run).executeTakeFirst()
      orders.set(s.run, run?.created ?? '')
    }
    const row = await tx
      .insertInto('step')
      .values({
        run_id: s.run,
        deliverable_id: s.deliverable,
        key: s.key,
        kind: s.kind,
        payload: JSON.stringify(s.payload),
        abilities: JSON.stringify(s.abilities),
        places: JSON.stringify(s.places),
        state: s.needs.length ? 'waiting' : 'ready',
        class: classOf(s),
        run_order: s.run === null ? '' : orders.get(s.run)!,
        position: s.position,
        shares: s.shares ?? null,
        frames_total: s.frames,
        ...blank,
      })
      .returning('id')
      .executeTakeFirstOrThrow()
    ids.set(`${s.deliverable}/${s.key}`, row.id)
  }
  for (const s of steps)
    for (const need of s.needs) {
      const key = need.includes('/') ? need : `${s.deliverable}/${need}`
      const id = ids.get(key) ?? (await stepOf(tx, key))
      await tx
        .insertInto('step_need')
        .values({ step_id: ids.get(`${s.deliverable}/${s.key}`)!, need_id: id })
        .execute()
    }
}

async function stepOf(tx: Transaction<Tables>, key: string): Promise<number> {
  const at = key.indexOf('/')
  const row = await tx
    .selectFrom('step')
    .select('id')
    .where('deliverable_id', '=', key.slice(0, at))
    .where('key', '=', key.slice(at + 1))
    .executeTakeFirst()
  if (!row) throw new Error(`A step needs “${key}”, which is not there.`)
  return row.id
}

/** Whether background work of a key is to be added: not while it is waiting or in hand. */
async function makeRoom(tx: Transaction<Tables>, key: string): Promise<boolean> {
  const there = await tx
    .selectFrom('step')
    .select('id')
    .where('run_id', 'is', null)
    .where('key', '=', key)
    .where('state', 'in', ['ready', 'claimed', 'aside'])
    .executeTakeFirst()
  if (there) return false
  await tx.deleteFrom('step').where('run_id', 'is', null).where('key', '=', key).execute()
  return true
}

const blank = {
  worker: null,
  fence: 0,
  beat: 0,
  lost: 0,
  interrupted: 0,
  frames_done: 0,
  started: null,
  finished: null,
  result: null,
  problem: null,
}
