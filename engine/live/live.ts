import { sql } from 'kysely'
import { deliverableOf, type Deliverable, type DeliverableSummary } from '../../contract/deliverables'
import type { BackgroundWork, DeliverableChanges, DeliverableList, LiveEvent } from '../../contract/live'
import { runToShow } from '../../contract/runs'
import { notSent, type DeliverableKey } from '../../core/deliverable/outlet'
import { diffSplit } from '../../core/split/patch'
import type { Split } from '../../core/split/region'
import type { Deliverables } from '../deliverables/deliverables'
import type { Nights } from '../deliverables/nights'
import { log } from '../log'
import type { Handover } from '../runs/handover'
import type { RunProgress } from '../runs/progress'
import { changesAfter, lastChange, type Change } from '../store/changes'
import type { Db } from '../store/database'
import type { Timelines } from '../timelines/timelines'

/** How often the database is asked what has changed, ms, while somebody listens; and how often work in hand is told. */
const every = 250
const workEvery = 1_000

/** Topics that deliverables follow from; a run makes some, and what it has made takes a name and room. */
const judging = new Set<Change['topic']>(['timelines', 'facts', 'split', 'outlets', 'runs'])

/** Tells pages what changes, as it changes, and keeps what it told, so that it tells only what is new. */
export class Live {
  private readonly listeners = new Set<(event: LiveEvent) => void>()
  private timer: NodeJS.Timeout | undefined
  private seen = -1
  private readonly splits = new Map<string, Split>()
  private summaries: ReadonlyMap<string, DeliverableSummary> = new Map()
  private listed: DeliverableList = { revision: -1, list: [] }
  private revision = 0
  private refreshing: Promise<DeliverableChanges> | null = null
  private next: Promise<DeliverableChanges> | null = null
  private told = { work: '', at: 0, run: '', since: '' }

  constructor(
    private readonly db: Db,
    private readonly timelines: Timelines,
    private readonly nights: Nights,
    private readonly deliverables: Deliverables,
    private readonly progress: RunProgress,
    private readonly handover: Handover,
  ) {}

  /** Tells a listener from now on; what it has missed before, it asks for itself. */
  subscribe(listener: (event: LiveEvent) => void): () => void {
    this.listeners.add(listener)
    listener({ type: 'hello' })
    if (this.listeners.size === 1) this.timer = setTimeout(() => void this.turn(), 0)
    return () => {
      this.listeners.delete(listener)
      if (this.listeners.size === 0) clearTimeout(this.timer)
    }
  }

  close(): void {
    clearTimeout(this.timer)
    this.listeners.clear()
  }

  /** Every deliverable as it is now; the same object as before, frozen, when nothing is different. */
  async list(): Promise<DeliverableList> {
    // also without a change of ours: names and room are the disk's, and a day ends
    await this.refresh()
    const { revision } = this
    if (this.listed.revision !== revision) this.listed = Object.freeze({ revision, list: [...this.summaries.values()] })
    return this.listed
  }

  /** One deliverable with all that its rules say of it. */
  async detail(key: DeliverableKey): Promise<Deliverable> {
    const judged = await this.nights.judgedOne(key)
    return judged ? deliverableOf(judged) : notSent()
  }

  /**
   * Judges anew, tells what is different, and gives it. What is under way began too early: the next one is waited for.
   */
  refresh(): Promise<DeliverableChanges> {
    if (!this.refreshing) return (this.refreshing = this.judge().finally(() => (this.refreshing = null)))
    return (this.next ??= this.refreshing
      .catch(() => undefined)
      .then(() => {
        this.next = null
        return this.refresh()
      }))
  }

  private async judge(): Promise<DeliverableChanges> {
    const now = await this.deliverables.summaries(await this.nights.situation())
    const same = (a: DeliverableSummary | undefined, b: DeliverableSummary) =>
      a === b || JSON.stringify(a) === JSON.stringify(b)
    const changed = [...now].filter(([key, s]) => !same(this.summaries.get(key), s)).map(([, s]) => s)
    const removed = [...this.summaries.keys()].filter((k) => !now.has(k))
    this.summaries = now
    if (changed.length || removed.length) {
      this.revision++
      this.tell({ type: 'deliverables', revision: this.revision, changed, removed })
    }
    return { revision: this.revision, changed, removed }
  }

  private tell(event: LiveEvent): void {
    for (const listener of this.listeners) listener(event)
  }

  private async turn(): Promise<void> {
    try {
      await this.tellChanges()
      if (Date.now() - this.told.at >= workEvery) {
        this.told.at = Date.now()
        await this.tellWork()
        await this.tellRun()
      }
    } catch (err) {
      log().error({ err }, 'changes could not be told')
    }
    if (this.listeners.size) this.timer = setTimeout(() => void this.turn(), every).unref()
  }

  private async tellChanges(): Promise<void> {
    if (this.seen < 0) {
      for (const t of await this.timelines.list()) this.splits.set(t.id, t.split)
      this.seen = await lastChange(this.db)
    }
    const changes = await changesAfter(this.db, this.seen)
    // what was forgotten meanwhile is as if everything had changed
    const list: Pick<Change, 'topic' | 'key'>[] =
      changes ?? (['timelines', 'outlets', 'runs'] as const).map((topic) => ({ topic, key: '' }))
    if (list.length === 0) return
    this.seen = changes ? changes.at(-1)!.id : await lastChange(this.db)
    const keys = (topic: Change['topic']) => [...new Set(list.filter((c) => c.topic === topic).map((c) => c.key))]
    const gone = keys('timelines')
    if (gone.length || keys('facts').length) this.tell({ type: 'timelines', ids: gone })
    for (const id of keys('split')) await this.tellSplit(id)
    if (keys('outlets').length) this.tell({ type: 'shelf' })
    if (list.some((c) => judging.has(c.topic))) await this.refresh()
    if (keys('runs').length) this.tell({ type: 'runs' })
    if (keys('finished').length) await this.tellFinished(keys('finished'))
    if (keys('run').length || keys('runs').length) this.told.at = 0
  }

  private async tellSplit(id: string): Promise<void> {
    const t = await this.timelines.get(id).catch(() => null)
    if (!t) return
    const patch = diffSplit(this.splits.get(id) ?? { regions: [], markers: [] }, t.split)
    this.splits.set(id, t.split)
    this.tell({ type: 'split', id, version: t.splitVersion, patch })
  }

  private async tellFinished(ids: readonly string[]): Promise<void> {
    const finished = await Promise.all(ids.map((id) => this.handover.summary(id).catch(() => null)))
    const list = finished.flatMap((f) => f ?? [])
    if (list.length) this.tell({ type: 'handover', finished: list })
  }

  private async tellWork(): Promise<void> {
    const rows = await sql<{ content: string; kind: string; left: number; failed: number }>`
      select json_extract(payload, '$.source.fingerprint.content') as content, kind,
        sum(case when state = 'failed' then 0 else frames_total - frames_done end) as left,
        max(state = 'failed') as failed
      from step where run_id is null and state in ('ready', 'claimed', 'aside', 'failed') and kind like 'analyse-%'
      group by 1, 2`.execute(this.db)
    const work: BackgroundWork[] = rows.rows.map((r) => ({ ...r, failed: r.failed === 1 }))
    const text = JSON.stringify(work)
    if (text === this.told.work) return
    this.told.work = text
    this.tell({ type: 'background', work })
  }

  private async tellRun(): Promise<void> {
    const runs = await this.db.selectFrom('run').select(['id', 'state']).orderBy('created', 'desc').execute()
    const run = runToShow(runs)
    if (!run) return
    const since = this.told.since || new Date().toISOString()
    const asked = new Date().toISOString()
    const pulse = await this.progress.pulse(run.id, since)
    const text = JSON.stringify(pulse)
    if (text !== this.told.run) this.tell({ type: 'run', ...pulse })
    this.told = { ...this.told, run: text, since: asked }
  }
}
