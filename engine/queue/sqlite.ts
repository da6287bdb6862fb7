import { sql } from 'kysely'
import type { Problem } from '../../core/problem'
import type { PlannedTask } from '../../core/job/steps'
import { bump, type Db, type TaskRow } from '../store/database'

/** Thrown inside a task whose lease was taken away: it was stopped, skipped, or given to another worker. */
export class Cancelled extends Error {}

const leaseMs = 20_000
const mostAttempts = 4

/** Hands out tasks, renews leases, takes results. State is in the database; any number of processes may use it. */
export class Dispatch {
  constructor(private readonly db: Db) {}

  /** Adds a background task unless one with this key is already waiting or in hand. */
  async addBackground(kind: string, key: string, payload: unknown, frames: number): Promise<void> {
    const there = await this.db
      .selectFrom('task')
      .select('id')
      .where('run_id', 'is', null)
      .where('key', '=', key)
      .where('state', 'in', ['ready', 'leased'])
      .executeTakeFirst()
    if (there) return
    await this.db.deleteFrom('task').where('run_id', 'is', null).where('key', '=', key).execute()
    await this.db
      .insertInto('task')
      .values({
        ...blank,
        run_id: null,
        item_id: null,
        key,
        kind,
        payload: JSON.stringify(payload),
        needs: '[]',
        state: 'ready',
        frames_total: frames,
      })
      .execute()
  }

  /** Adds the steps of one deliverable. */
  async addItem(runId: string, itemId: string, tasks: readonly PlannedTask[]): Promise<void> {
    await this.db
      .insertInto('task')
      .values(
        tasks.map((t) => ({
          ...blank,
          run_id: runId,
          item_id: itemId,
          key: t.key,
          kind: t.kind,
          payload: JSON.stringify({ range: t.range }),
          needs: JSON.stringify(t.needs),
          state: t.needs.length ? ('waiting' as const) : ('ready' as const),
          frames_total: t.range.out - t.range.in,
        })),
      )
      .execute()
  }

  /**
   * Leases the next task for a worker, or null. Steps of a running run come in the order of its list; background work
   * comes first, since people wait for it; the long pass over pictures is never taken by the first worker, which stays
   * free for what is short. A lease that ran out is given to the next who asks.
   */
  async claim(owner: string, index: number): Promise<TaskRow | null> {
    const now = Date.now()
    await sql`update task set state = 'failed', problem = ${JSON.stringify({ code: 'worker.lost', message: 'The workers that took this step stopped without a word, several times.', fix: 'Look at the memory of this machine, then run it again.' } satisfies Problem)}
      where state = 'leased' and lease_until < ${now} and attempts >= ${mostAttempts} and run_id is null`.execute(
      this.db,
    )
    const found = await sql<TaskRow>`
      update task set state = 'leased', owner = ${owner}, lease_until = ${now + leaseMs}, attempts = attempts + 1, started = ${now}, frames_done = 0
      where id = (
        select task.id from task left join run on run.id = task.run_id left join item on item.id = task.item_id
        where (task.state = 'ready' or (task.state = 'leased' and task.lease_until < ${now}))
          and (task.run_id is null or (run.state = 'running' and run.workers > ${index} and item.state in ('waiting', 'running')))
          and (task.kind <> 'analyse-segment' or ${index} > 0)
        order by task.run_id is not null, task.kind = 'analyse-segment', run.created, item.position, task.id limit 1)
      returning *`.execute(this.db)
    const task = found.rows[0]
    if (!task) return null
    if (task.attempts > mostAttempts) {
      await this.failed(task, {
        code: 'worker.lost',
        message: 'The workers that took this step stopped without a word, several times.',
        fix: 'Look at the memory of this machine, then run it again.',
      })
      return null
    }
    if (task.item_id) {
      const changed = await this.db
        .updateTable('item')
        .set({ state: 'running', started: new Date().toISOString() })
        .where('id', '=', task.item_id)
        .where('state', '=', 'waiting')
        .executeTakeFirst()
      if (changed.numUpdatedRows > 0n) await bump(this.db, 'run')
    }
    return task
  }

  /** Renews the lease and notes progress; throws {@link Cancelled} when the task is not this worker's any more. */
  async heartbeat(task: TaskRow, framesDone: number): Promise<void> {
    const r = await this.db
      .updateTable('task')
      .set({ lease_until: Date.now() + leaseMs, frames_done: framesDone })
      .where('id', '=', task.id)
      .where('owner', '=', task.owner)
      .where('state', '=', 'leased')
      .executeTakeFirst()
    if (r.numUpdatedRows === 0n) throw new Cancelled()
  }

  /** Takes a finished task; steps that needed it become ready; the last step finishes the deliverable. */
  async finished(task: TaskRow, result: unknown): Promise<void> {
    await this.db.transaction().execute(async (tx) => {
      const r = await tx
        .updateTable('task')
        .set({
          state: 'done',
          finished: Date.now(),
          frames_done: task.frames_total,
          result: JSON.stringify(result ?? null),
          owner: null,
        })
        .where('id', '=', task.id)
        .where('owner', '=', task.owner)
        .where('state', '=', 'leased')
        .executeTakeFirst()
      if (r.numUpdatedRows === 0n) throw new Cancelled()
      if (!task.item_id) return
      const steps = await tx
        .selectFrom('task')
        .select(['id', 'key', 'state', 'needs'])
        .where('item_id', '=', task.item_id)
        .execute()
      const done = new Set(steps.filter((s) => s.state === 'done').map((s) => s.key))
      for (const s of steps)
        if (s.state === 'waiting' && (JSON.parse(s.needs) as string[]).every((n) => done.has(n)))
          await tx.updateTable('task').set({ state: 'ready' }).where('id', '=', s.id).execute()
    })
    await bump(this.db, task.run_id ? 'run' : 'facts')
  }

  /** Takes a failed task: its deliverable fails, the others go on. */
  async failed(task: TaskRow, problem: Problem): Promise<void> {
    await this.db
      .updateTable('task')
      .set({ state: 'failed', finished: Date.now(), problem: JSON.stringify(problem), owner: null })
      .where('id', '=', task.id)
      .where('owner', '=', task.owner)
      .execute()
    if (task.item_id) await this.endItem(task.item_id, 'failed', problem)
    await bump(this.db, task.run_id ? 'run' : 'facts')
  }

  /** Ends a deliverable: steps not done are cancelled, also those in hand. */
  async endItem(
    itemId: string,
    state: 'done' | 'failed' | 'skipped',
    problem: Problem | null,
    result: unknown = null,
    finalPath: string | null = null,
  ): Promise<void> {
    await this.db
      .updateTable('item')
      .set({
        state,
        finished: new Date().toISOString(),
        problem: problem && JSON.stringify(problem),
        result: result === null ? null : JSON.stringify(result),
        final_path: finalPath,
      })
      .where('id', '=', itemId)
      .where('state', 'in', ['waiting', 'running'])
      .execute()
    if (state !== 'done')
      await this.db
        .updateTable('task')
        .set({ state: 'cancelled' })
        .where('item_id', '=', itemId)
        .where('state', 'in', ['waiting', 'ready', 'leased'])
        .execute()
    const item = await this.db.selectFrom('item').select('run_id').where('id', '=', itemId).executeTakeFirst()
    if (item) await this.closeRun(item.run_id)
    await bump(this.db, 'run')
  }

  /** A run with nothing left to do is done. */
  private async closeRun(runId: string): Promise<void> {
    const open = await this.db
      .selectFrom('item')
      .select('id')
      .where('run_id', '=', runId)
      .where('state', 'in', ['waiting', 'running'])
      .executeTakeFirst()
    if (!open)
      await this.db
        .updateTable('run')
        .set({ state: 'done', finished: new Date().toISOString() })
        .where('id', '=', runId)
        .where('state', 'in', ['running', 'paused'])
        .execute()
  }

  /** Gives back the tasks of workers that are known to be gone; only the steps in hand are done anew. */
  async release(gone: (owner: string) => boolean): Promise<void> {
    const leased = await this.db.selectFrom('task').select(['id', 'owner']).where('state', '=', 'leased').execute()
    for (const t of leased)
      if (t.owner && gone(t.owner))
        await this.db
          .updateTable('task')
          .set({ state: 'ready', owner: null })
          .where('id', '=', t.id)
          .where('owner', '=', t.owner)
          .execute()
  }
}

const blank = {
  owner: null,
  lease_until: 0,
  attempts: 0,
  frames_done: 0,
  started: null,
  finished: null,
  result: null,
  problem: null,
}
