import type { RunPulse } from '../../contract/live'
import type { Lane, RunDeliverable, RunSummary, RunView } from '../../contract/runs'
import { stepKind, stepKinds } from '../../core/job/steps'
import type { Verdict } from '../../core/spec/judge'
import type { Db, DeliverableRow, RunRow, StepRow } from '../store/database'
import { problemOf } from '../store/deliverables'
import { runRow } from '../store/runs'

type ShownStep = Pick<
  StepRow,
  | 'id'
  | 'deliverable_id'
  | 'kind'
  | 'worker'
  | 'state'
  | 'frames_done'
  | 'frames_total'
  | 'started'
  | 'finished'
  | 'problem'
>

const shownColumns = [
  'id',
  'deliverable_id',
  'kind',
  'worker',
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

/** Which machine a worker is of, null for this one, and how many bytes of memory it has, null where it did not say. */
type WorkerOf = (worker: string) => Pick<Lane, 'machine' | 'memory'>

/** How runs go, as the Night run shows it: what is in hand, how far it is, how long it takes yet. */
export class RunProgress {
  constructor(
    private readonly db: Db,
    /** What is known of a worker. */
    private readonly workerOf: WorkerOf = () => ({ machine: null, memory: null }),
  ) {}

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
    const run = await runRow(this.db, id)
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
        this.workerOf,
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
    const run = await runRow(this.db, id)
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
      lanes: lanesOf(steps, new Map(moved.map((d) => [d.id, d.title])), this.workerOf, now),
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
}

type ShownRow = Omit<
  DeliverableRow,
  | 'identity'
  | 'run_id'
  | 'position'
  | 'sheet'
  | 'outlet_id'
  | 'root'
  | 'frames'
  | 'result'
  | 'bytes'
  | 'report'
  | 'trial'
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
  const counted = new Set(stepKinds.filter((k) => !k.proof).map((k) => k.kind))
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
  return measured ? (spent / progress) * (1 - progress) : left / Math.max(1, run.workers)
}

/** What each worker is at; steps that it took together, since they read the same pictures, are one lane. */
function lanesOf(
  steps: readonly ShownStep[],
  titles: ReadonlyMap<string, string>,
  workerOf: WorkerOf,
  now: number,
): Lane[] {
  const byWorker = new Map<string, ShownStep[]>()
  for (const s of steps) byWorker.set(s.worker ?? '', [...(byWorker.get(s.worker ?? '') ?? []), s])
  return [...byWorker.values()].map((own) => {
    const [first] = own as [ShownStep]
    const { doing } = stepKind(first.kind)
    return {
      ...workerOf(first.worker ?? ''),
      item: own.map((s) => titles.get(s.deliverable_id!) ?? '').join(' · '),
      step: own.length > 1 ? `${doing} for ${own.length}` : doing,
      framesDone: own.reduce((n, s) => n + s.frames_done, 0),
      framesTotal: own.reduce((n, s) => n + s.frames_total, 0),
      since: Math.min(...own.map((s) => s.started ?? now)),
    }
  })
}
