import { randomBytes } from 'node:crypto'
import { open, rm } from 'node:fs/promises'
import path from 'node:path'
import type { RunPulse } from '../../contract/live'
import type { Finished, FinishedSummary, Lane, RunDeliverable, RunSummary, RunView } from '../../contract/runs'
import { freeze } from '../../core/deliverable/freeze'
import type { JudgedDraft } from '../../core/deliverable/judged'
import type { FrozenDeliverable, RunSheet } from '../../core/deliverable/sheet'
import { stepKind, stepKinds } from '../../core/job/steps'
import { fail } from '../../core/problem'
import type { Verdict } from '../../core/spec/judge'
import type { OfferedStep } from '../queue/port'
import { inTransaction, SqliteQueue } from '../queue/sqlite'
import type { DataFolders } from '../storage/home'
import type { Roots } from '../storage/roots'
import { sweepScratch } from '../storage/scratch'
import { noteChange } from '../store/changes'
import type { Db, DeliverableRow, RunRow, StepRow } from '../store/database'
import { endDeliverable, frozenOf, keepDeliverable, problemOf, proofOf } from '../store/deliverables'
import { installationOf } from '../store/settings'

type ShownStep = Pick<
  StepRow,
  'id' | 'deliverable_id' | 'kind' | 'state' | 'frames_done' | 'frames_total' | 'started' | 'finished' | 'problem'
>

const shownColumns = [
  'id',
  'deliverable_id',
  'kind',
  'state',
  'frames_done',
  'frames_total',
  'started',
  'finished',
  'problem',
] as const

const listColumns = [
  'id',
  'title',
  'region',
  'outlet',
  'timeline',
  'target',
  'final_path',
  'state',
  'verdict',
  'problem',
  'started',
  'finished',
  'seconds',
] as const

/** A sheet whose deliverables are frozen one by one as they are read, so that thousands are never held at once. */
type FreezingSheet = Omit<RunSheet, 'deliverables'> & { readonly deliverables: Iterable<FrozenDeliverable> }

/** Freezes deliverables into run sheets and looks after the runs. */
export class Runs {
  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly folders: DataFolders,
  ) {}

  /** Freezes judged drafts into a run sheet, without starting anything; each when it is asked for. */
  freeze(name: string, workers: number, list: Iterable<JudgedDraft>): FreezingSheet {
    const now = new Date().toISOString()
    const run = `${now.slice(0, 10).replaceAll('-', '')}-${randomBytes(3).toString('hex')}`
    const deliverables = (function* () {
      let n = 0
      for (const d of list) yield freeze(d, `${run}-${String(++n).padStart(3, '0')}`)
    })()
    return { format: 'velvet-crane-run-sheet/2', run, name, created: now, workers, deliverables }
  }

  /** Keeps a sheet and starts it. Of two that would get one name the later takes the next version when it is named. */
  async start(sheet: FreezingSheet): Promise<string> {
    const { run: id, name, workers, created, deliverables, ...head } = sheet
    const sheetName = `${id}.json`
    const file = path.join(this.folders.runs, sheetName)
    const out = await open(file, 'wx')
    try {
      await inTransaction(this.db, async (tx) => {
        const state = 'running' as const
        const row = { id, name, state, workers, created, finished: null, sheet: sheetName }
        await tx.insertInto('run').values(row).execute()
        await out.write(`${JSON.stringify({ ...head, run: id, name, created, workers }).slice(0, -1)},"deliverables":[`)
        const queue = new SqliteQueue(tx)
        let position = 0
        for (const d of deliverables) {
          await out.write(`${position ? ',' : ''}\n${JSON.stringify(d)}`)
          await keepDeliverable(tx, id, position, d)
          await queue.offer(offersOf(id, position++, d))
        }
        if (position === 0)
          fail(
            'run.empty',
            'There is nothing to run: no deliverable is cleared.',
            undefined,
            'Choose deliverables at the Outlets, and mend or waive what fails at the Checks.',
          )
        await out.write('\n]}\n')
      })
    } catch (e) {
      await rm(file, { force: true })
      throw e
    } finally {
      await out.close()
    }
    await noteChange(this.db, 'runs', id)
    return id
  }

  async setState(id: string, state: 'running' | 'paused' | 'stopped'): Promise<void> {
    await this.row(id)
    const from = {
      running: ['paused', 'stopped'] as const,
      paused: ['running'] as const,
      stopped: ['running', 'paused'] as const,
    }[state]
    const r = await this.db
      .updateTable('run')
      .set({ state, finished: null })
      .where('id', '=', id)
      .where('state', 'in', [...from])
      .executeTakeFirst()
    if (r.numUpdatedRows === 0n) return
    // a stop takes steps out of hands that may still be writing; they are done anew when the run goes on
    if (state === 'stopped')
      await this.db
        .updateTable('step')
        .set({ state: 'ready', worker: null, frames_done: 0, interrupted: 1 })
        .where('run_id', '=', id)
        .where('state', '=', 'claimed')
        .execute()
    await noteChange(this.db, 'runs', id)
  }

  async setWorkers(id: string, workers: number): Promise<void> {
    await this.row(id)
    await this.db.updateTable('run').set({ workers }).where('id', '=', id).execute()
    await noteChange(this.db, 'runs', id)
  }

  async skip(deliverable: string): Promise<void> {
    await this.deliverable(deliverable)
    await inTransaction(this.db, (tx) => endDeliverable(tx, deliverable, 'skipped', null))
  }

  /** Runs a failed or skipped deliverable again, from its frozen sheet. */
  async again(deliverable: string): Promise<void> {
    const row = await this.deliverable(deliverable)
    if (row.state !== 'failed' && row.state !== 'skipped') return
    const item = frozenOf(row)
    if (item.steps.length === 0)
      fail(
        'run.earlier-edition',
        'This was frozen by an earlier edition and is not made from its sheet any more.',
        item.target.path,
        'Start it again from the Night run: it is frozen anew.',
      )
    await inTransaction(this.db, async (tx) => {
      await tx.deleteFrom('step').where('deliverable_id', '=', deliverable).execute()
      await tx
        .updateTable('deliverable')
        .set({
          state: 'waiting',
          problem: null,
          result: null,
          verdict: null,
          final_path: null,
          started: null,
          finished: null,
        })
        .where('id', '=', deliverable)
        .execute()
      await new SqliteQueue(tx).offer(offersOf(row.run_id, row.position, item))
      await tx
        .updateTable('run')
        .set({ state: 'running', finished: null })
        .where('id', '=', row.run_id)
        .where('state', '=', 'done')
        .execute()
    })
    await noteChange(this.db, 'runs', row.run_id)
  }

  async remove(id: string): Promise<void> {
    await this.setState(id, 'stopped')
    await this.db.deleteFrom('run').where('id', '=', id).execute()
    await this.sweep()
    await noteChange(this.db, 'runs', id)
  }

  async list(): Promise<RunSummary[]> {
    const runs = await this.db.selectFrom('run').selectAll().orderBy('created', 'desc').execute()
    const counts = await this.db
      .selectFrom('deliverable')
      .select(['run_id', 'state', (e) => e.fn.countAll<number>().as('n')])
      .groupBy(['run_id', 'state'])
      .execute()
    const count = (run: string, state?: string) =>
      counts.reduce((n, c) => n + (c.run_id === run && (!state || c.state === state) ? Number(c.n) : 0), 0)
    return runs.map(({ id, name, state, created }) => ({
      id,
      name,
      state,
      created,
      done: count(id, 'done'),
      total: count(id),
    }))
  }

  /** A run as the Night run shows it. */
  async view(id: string): Promise<RunView> {
    const run = await this.row(id)
    const rows = await this.db
      .selectFrom('deliverable')
      .select(listColumns)
      .where('run_id', '=', id)
      .orderBy('position')
      .execute()
    const steps: ShownStep[] = await this.db
      .selectFrom('step')
      .select(shownColumns)
      .where('run_id', '=', id)
      .orderBy('id')
      .execute()
    const byDeliverable = new Map<string, ShownStep[]>()
    for (const s of steps) {
      const own = byDeliverable.get(s.deliverable_id!)
      if (own) own.push(s)
      else byDeliverable.set(s.deliverable_id!, [s])
    }
    const items = rows.map((row) => shown(row, byDeliverable.get(row.id) ?? [], run))
    const titles = new Map(rows.map((r) => [r.id, r.title]))
    const now = Date.now()
    return {
      id: run.id,
      name: run.name,
      state: run.state,
      workers: run.workers,
      created: run.created,
      finished: run.finished,
      items,
      lanes: lanesOf(
        steps.filter((s) => s.state === 'claimed'),
        titles,
        now,
      ),
      framesPerSecond: run.state === 'running' ? framesPerSecond(steps, now) : 0,
      secondsLeft: secondsLeft(
        run,
        items.reduce((n, i) => n + leftOf(i), 0),
        items.reduce((n, i) => n + i.seconds, 0),
        Math.min(...steps.map((s) => s.started ?? now)),
        now,
      ),
    }
  }

  /** How a run goes, without reading what has not moved since `after` (ISO). */
  async pulse(id: string, after: string): Promise<RunPulse> {
    const run = await this.row(id)
    const steps: ShownStep[] = await this.db
      .selectFrom('step')
      .select(shownColumns)
      .where('run_id', '=', id)
      .where('state', '=', 'claimed')
      .execute()
    const rows = () => this.db.selectFrom('deliverable').select(listColumns).where('run_id', '=', id)
    // one after the other, since each has an index of its own
    const moved = [
      ...(await rows().where('state', '=', 'running').execute()),
      ...(await rows().where('finished', '>=', after).execute()),
    ]
    const own = await this.stepsOf(moved.filter((d) => d.state === 'running').map((d) => d.id))
    const items = moved.map((row) => shown(row, own.get(row.id) ?? [], run))
    const sums = await this.db
      .selectFrom('deliverable')
      .select((e) => ['state', e.fn.sum<number>('seconds').as('seconds')])
      .where('run_id', '=', id)
      .groupBy('state')
      .execute()
    const began = await this.db
      .selectFrom('step')
      .select((e) => e.fn.min('started').as('at'))
      .where('run_id', '=', id)
      .where('state', 'in', ['done', 'claimed'])
      .executeTakeFirst()
    const seconds = (...states: string[]) =>
      sums.reduce((n, s) => n + (states.includes(s.state) ? Number(s.seconds) : 0), 0)
    const now = Date.now()
    const left = seconds('waiting') + items.reduce((n, i) => n + leftOf(i), 0)
    const total = seconds('waiting', 'running', 'done', 'failed', 'skipped')
    return {
      id: run.id,
      state: run.state,
      workers: run.workers,
      finished: run.finished,
      lanes: lanesOf(steps, new Map(moved.map((d) => [d.id, d.title])), now),
      framesPerSecond: run.state === 'running' ? framesPerSecond([...own.values()].flat(), now) : 0,
      secondsLeft: secondsLeft(run, left, total, began?.at ?? now, now),
      items,
    }
  }

  private async stepsOf(deliverables: readonly string[]): Promise<Map<string, ShownStep[]>> {
    const by = new Map<string, ShownStep[]>(deliverables.map((id) => [id, []]))
    if (deliverables.length === 0) return by
    const steps: ShownStep[] = await this.db
      .selectFrom('step')
      .select(shownColumns)
      .where('deliverable_id', 'in', deliverables.slice(0, 500))
      .orderBy('id')
      .execute()
    for (const s of steps) by.get(s.deliverable_id!)?.push(s)
    return by
  }

  async proof(deliverable: string): Promise<Finished | null> {
    const row = await this.deliverable(deliverable)
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
  async deliveredAs(identity: string): Promise<Finished | null> {
    const row = await this.db
      .selectFrom('deliverable')
      .select('id')
      .where('identity', '=', identity)
      .where('state', '=', 'done')
      .orderBy('finished', 'desc')
      .executeTakeFirst()
    return row ? this.proof(row.id) : null
  }

  /** Everything finished, newest first, as lists show it. */
  async handover(): Promise<FinishedSummary[]> {
    const rows = await this.db
      .selectFrom('deliverable')
      .select(['id', 'final_path', 'region', 'outlet_id', 'outlet', 'verdict', 'bytes', 'finished'])
      .where('state', '=', 'done')
      .orderBy('finished', 'desc')
      .execute()
    return rows.map(finishedSummary)
  }

  /** A finished deliverable as lists show it; null when it is not. */
  async finished(deliverable: string): Promise<FinishedSummary | null> {
    const row = await this.deliverable(deliverable)
    return row.state === 'done' ? finishedSummary(row) : null
  }

  /** Removes scratch folders of this installation that no unfinished deliverable of a run owns. */
  async sweep(): Promise<void> {
    const live = async () => {
      const open = await this.db
        .selectFrom('deliverable')
        .select('id')
        .where('state', 'in', ['waiting', 'running'])
        .execute()
      return new Set(open.map((i) => i.id))
    }
    await sweepScratch(this.roots, await installationOf(this.db), live)
  }

  private async row(id: string): Promise<RunRow> {
    const row = await this.db.selectFrom('run').selectAll().where('id', '=', id).executeTakeFirst()
    return row ?? fail('run.unknown', 'This run is not here any more.', id, 'Choose another one.')
  }

  private async deliverable(id: string): Promise<DeliverableRow> {
    const row = await this.db.selectFrom('deliverable').selectAll().where('id', '=', id).executeTakeFirst()
    return row ?? fail('deliverable.unknown', 'This deliverable is not here any more.', id, 'Look at the run again.')
  }
}

function offersOf(run: string, position: number, d: FrozenDeliverable): OfferedStep[] {
  return d.steps.map((s) => ({
    run,
    deliverable: d.id,
    key: s.key,
    kind: s.kind,
    payload: { range: s.range },
    needs: s.needs,
    abilities: s.abilities,
    frames: s.range.out - s.range.in,
    position,
  }))
}

function finishedSummary(
  row: Pick<DeliverableRow, 'id' | 'final_path' | 'region' | 'outlet_id' | 'outlet' | 'verdict' | 'bytes' | 'finished'>,
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
  }
}

type ShownRow = Omit<
  DeliverableRow,
  'identity' | 'run_id' | 'position' | 'sheet' | 'outlet_id' | 'root' | 'frames' | 'result' | 'bytes' | 'report'
>

function shown(row: ShownRow, steps: readonly ShownStep[], run: RunRow): RunDeliverable {
  const total = steps.reduce((n, s) => n + s.frames_total, 0)
  const done = steps.reduce((n, s) => n + (s.state === 'done' ? s.frames_total : s.frames_done), 0)
  return {
    id: row.id,
    title: row.title,
    region: row.region,
    outlet: row.outlet,
    timeline: row.timeline,
    path: row.state === 'done' ? row.final_path! : row.target,
    state: row.state,
    doing: doing(row.state, steps, run.state),
    framesDone: row.state === 'done' ? total : done,
    framesTotal: total,
    verdict: row.state === 'done' ? (row.verdict as Verdict | null) : null,
    problem: problemOf(row),
    started: row.started,
    finished: row.finished,
    seconds: row.seconds,
  }
}

function doing(state: DeliverableRow['state'], steps: readonly ShownStep[], run: RunRow['state']): string {
  if (state === 'waiting') return run === 'running' ? 'waiting for its turn' : run
  if (state !== 'running') return state
  const inHand = steps.filter((s) => s.state === 'claimed')
  const aside = steps.find((s) => s.state === 'aside')
  if (aside) return `waiting: ${problemOf(aside)!.message}`
  if (inHand.length) return [...new Set(inHand.map((s) => stepKind(s.kind).doing))].join(', ')
  return run === 'paused' ? 'paused' : 'waiting for a worker'
}

/** Frames a second over the last half minute, from steps finished and in hand. */
function framesPerSecond(steps: readonly ShownStep[], now: number): number {
  const window = 30_000
  const counted = new Set(stepKinds.filter((k) => k.kind !== 'prove').map((k) => k.kind))
  let frames = 0
  let since = now
  for (const s of steps) {
    if (!counted.has(s.kind) || !s.started) continue
    if (s.state === 'claimed') frames += s.frames_done
    else if (s.state === 'done' && s.finished && s.finished > now - window) frames += s.frames_total
    else continue
    since = Math.min(since, Math.max(s.started, now - window))
  }
  return frames > 0 ? frames / Math.max(1, (now - since) / 1000) : 0
}

/** Seconds of a deliverable's work that are left, by the forecast and its frames done. */
function leftOf(i: RunDeliverable): number {
  if (i.state !== 'waiting' && i.state !== 'running') return 0
  return i.seconds * (1 - i.framesDone / Math.max(1, i.framesTotal))
}

/** Time left from the share of the work done so far; at first, from the forecast. */
function secondsLeft(run: RunRow, left: number, total: number, began: number, now: number): number | null {
  if (left <= 0) return 0
  const spent = (now - began) / 1000
  const progress = total > 0 ? 1 - left / total : 1
  const measured = run.state === 'running' && progress > 0.05 && spent > 3
  return measured ? (spent / progress) * (1 - progress) : left / run.workers
}

function lanesOf(steps: readonly ShownStep[], titles: ReadonlyMap<string, string>, now: number): Lane[] {
  return steps.map((s) => ({
    item: titles.get(s.deliverable_id!) ?? '',
    step: stepKind(s.kind).doing,
    framesDone: s.frames_done,
    framesTotal: s.frames_total,
    since: s.started ?? now,
  }))
}
