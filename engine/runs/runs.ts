import { randomBytes } from 'node:crypto'
import { existsSync } from 'node:fs'
import { readdir, rm, writeFile } from 'node:fs/promises'
import path from 'node:path'
import { fail, type Problem } from '../../core/problem'
import { sheetItemSchema, type RunSheet, type SheetItem } from '../../core/deliverable/sheet'
import { trimAssembly } from '../../core/timeline/assemble'
import { forecastSeconds, planTasks } from '../../core/job/steps'
import type { Verdict } from '../../core/spec/judge'
import { bump, type Db, type RunRow } from '../store/database'
import type { Deliverable } from '../deliverables/deliverables'
import { Dispatch } from '../queue/sqlite'
import type { DataFolders } from '../storage/home'
import type { Outlet } from '../deliverables/outlets'
import type { Roots } from '../storage/roots'
import type { Proof } from '../worker/steps/prove'
import type { StoredTimeline } from '../timelines/timelines'
import type { Spec } from '../../core/spec/spec'

/** A deliverable of a run as the list shows it. */
export interface ItemView {
  readonly id: string
  readonly title: string
  readonly region: string
  readonly outlet: string
  readonly timeline: string
  readonly path: string
  readonly state: 'waiting' | 'running' | 'done' | 'failed' | 'skipped'
  readonly doing: string
  readonly framesDone: number
  readonly framesTotal: number
  readonly verdict: Verdict | null
  readonly problem: Problem | null
  readonly started: string | null
  readonly finished: string | null
  /** Seconds of work, forecast on one worker. */
  readonly seconds: number
}

export interface RunView {
  readonly id: string
  readonly name: string
  readonly state: RunRow['state']
  readonly workers: number
  readonly created: string
  readonly finished: string | null
  readonly items: readonly ItemView[]
  /** What each worker has in hand. */
  readonly lanes: readonly {
    readonly item: string
    readonly step: string
    readonly framesDone: number
    readonly framesTotal: number
    readonly since: number
  }[]
  readonly framesPerSecond: number
  readonly secondsLeft: number | null
}

const stepWords: Record<string, string> = {
  rewrap: 'copying essence',
  segment: 'making pictures',
  'encode-sound': 'encoding sound',
  'write-sound': 'writing sound',
  join: 'joining',
  prove: 'proving',
}

/** Freezes deliverables into run sheets and looks after the runs. */
export class Runs {
  private readonly dispatch: Dispatch

  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly folders: DataFolders,
  ) {
    this.dispatch = new Dispatch(db)
  }

  /** Freezes deliverables into a run sheet, without starting anything. */
  freeze(
    name: string,
    workers: number,
    list: readonly Deliverable[],
    timelines: readonly StoredTimeline[],
    outlets: readonly Outlet[],
    specs: readonly Spec[],
  ): RunSheet {
    const run = `${new Date().toISOString().slice(0, 10).replaceAll('-', '')}-${randomBytes(3).toString('hex')}`
    const items = list.map((d, i): SheetItem => {
      const t = timelines.find((x) => x.id === d.timelineId)!
      const o = outlets.find((x) => x.id === d.outletId)!
      const region = t.split.regions.find((r) => r.id === d.regionId)!
      return {
        id: `${run}-${String(i + 1).padStart(3, '0')}`,
        title: d.title,
        timeline: {
          id: t.id,
          show: t.show,
          name: t.name,
          rate: t.model.rate,
          dropFrame: t.model.dropFrame,
          start: t.model.start,
          length: t.model.length,
        },
        source: { ...t.place, fingerprint: t.fingerprint },
        ...(t.linking ? { assembly: trimAssembly(t.linking.assembly, region) } : {}),
        region: {
          id: region.id,
          name: region.name,
          in: region.in,
          out: Math.min(region.out, t.model.length),
          metadata: { ...region.metadata },
        },
        chapters: t.split.markers
          .filter((m) => m.at >= region.in && m.at < region.out)
          .sort((a, b) => a.at - b.at)
          .map((m) => ({ at: m.at - region.in, name: m.name || 'Chapter' })),
        outlet: { id: o.id, name: o.name },
        recipe: d.recipe,
        spec: specs.find((s) => s.id === o.spec)!,
        target: { root: o.root, path: d.path, version: d.version },
        readings: Object.fromEntries(
          d.results.flatMap((r) => {
            const reading = r.forecast ?? r.source
            return reading
              ? [
                  [
                    r.rule.measure,
                    {
                      value:
                        typeof reading.value === 'number' && !Number.isFinite(reading.value)
                          ? null
                          : Array.isArray(reading.value)
                            ? [...reading.value]
                            : (reading.value as string | number | boolean),
                      text: reading.text,
                      from: reading.from,
                    },
                  ],
                ]
              : []
          }),
        ),
        waivers: d.results.flatMap((r) => (r.waiver ? [{ ...r.waiver }] : [])),
        bytes: d.output.bytes,
      }
    })
    return { format: 'velvet-crane-run-sheet/1', run, name, created: new Date().toISOString(), workers, items }
  }

  /**
   * Keeps a sheet and starts it. Two items of a sheet never get one name: the later takes the next version when it is
   * written.
   */
  async start(sheet: RunSheet): Promise<string> {
    if (sheet.items.length === 0)
      fail(
        'run.empty',
        'There is nothing to run: no deliverable is cleared.',
        undefined,
        'Choose deliverables at the Outlets, and mend or waive what fails at the Checks.',
      )
    await writeFile(path.join(this.folders.runs, `${sheet.run}.json`), JSON.stringify(sheet, null, 2))
    await this.db.transaction().execute(async (tx) => {
      await tx
        .insertInto('run')
        .values({
          id: sheet.run,
          name: sheet.name,
          state: 'running',
          workers: sheet.workers,
          created: sheet.created,
          finished: null,
          sheet: `${sheet.run}.json`,
        })
        .execute()
      const dispatch = new Dispatch(tx)
      for (const [position, item] of sheet.items.entries()) {
        await tx
          .insertInto('item')
          .values({
            id: item.id,
            run_id: sheet.run,
            position,
            state: 'waiting',
            sheet: JSON.stringify(item),
            final_path: null,
            result: null,
            problem: null,
            started: null,
            finished: null,
          })
          .execute()
        await dispatch.addItem(sheet.run, item.id, planTasks(item))
      }
    })
    await bump(this.db, 'run')
    return sheet.run
  }

  async setState(id: string, state: 'running' | 'paused' | 'stopped'): Promise<void> {
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
    // a stop takes steps out of the workers' hands; they are done anew when the run goes on
    if (state === 'stopped')
      await this.db
        .updateTable('task')
        .set({ state: 'ready', owner: null, frames_done: 0 })
        .where('run_id', '=', id)
        .where('state', '=', 'leased')
        .execute()
    await bump(this.db, 'run')
  }

  async setWorkers(id: string, workers: number): Promise<void> {
    await this.db.updateTable('run').set({ workers }).where('id', '=', id).execute()
    await bump(this.db, 'run')
  }

  async skip(itemId: string): Promise<void> {
    await this.dispatch.endItem(itemId, 'skipped', null)
  }

  /** Runs a failed or skipped deliverable again, from its frozen sheet. */
  async again(itemId: string): Promise<void> {
    const row = await this.db
      .selectFrom('item')
      .selectAll()
      .where('id', '=', itemId)
      .where('state', 'in', ['failed', 'skipped'])
      .executeTakeFirst()
    if (!row) return
    const item = sheetItemSchema.parse(JSON.parse(row.sheet))
    await this.db.transaction().execute(async (tx) => {
      await tx.deleteFrom('task').where('item_id', '=', itemId).execute()
      await tx
        .updateTable('item')
        .set({ state: 'waiting', problem: null, result: null, final_path: null, started: null, finished: null })
        .where('id', '=', itemId)
        .execute()
      await new Dispatch(tx).addItem(row.run_id, itemId, planTasks(item))
      await tx
        .updateTable('run')
        .set({ state: 'running', finished: null })
        .where('id', '=', row.run_id)
        .where('state', '=', 'done')
        .execute()
    })
    await bump(this.db, 'run')
  }

  async remove(id: string): Promise<void> {
    await this.setState(id, 'stopped')
    await this.db.deleteFrom('run').where('id', '=', id).execute()
    await this.sweep()
    await bump(this.db, 'run')
  }

  async latest(): Promise<RunView | null> {
    const row = await this.db.selectFrom('run').selectAll().orderBy('created', 'desc').executeTakeFirst()
    return row ? this.view(row.id) : null
  }

  async list(): Promise<
    { id: string; name: string; state: RunRow['state']; created: string; done: number; total: number }[]
  > {
    const runs = await this.db.selectFrom('run').selectAll().orderBy('created', 'desc').execute()
    const items = await this.db.selectFrom('item').select(['run_id', 'state']).execute()
    return runs.map((r) => ({
      id: r.id,
      name: r.name,
      state: r.state,
      created: r.created,
      done: items.filter((i) => i.run_id === r.id && i.state === 'done').length,
      total: items.filter((i) => i.run_id === r.id).length,
    }))
  }

  async view(id: string): Promise<RunView> {
    const run =
      (await this.db.selectFrom('run').selectAll().where('id', '=', id).executeTakeFirst()) ??
      fail('run.unknown', 'This run is not here any more.', id)
    const items = await this.db.selectFrom('item').selectAll().where('run_id', '=', id).orderBy('position').execute()
    const tasks = await this.db
      .selectFrom('task')
      .select(['id', 'item_id', 'kind', 'state', 'frames_done', 'frames_total', 'started', 'finished'])
      .where('run_id', '=', id)
      .orderBy('id')
      .execute()
    const now = Date.now()
    const byItem = new Map<string, typeof tasks>()
    for (const t of tasks) byItem.set(t.item_id!, [...(byItem.get(t.item_id!) ?? []), t])
    const titles = new Map<string, string>()
    let left = 0
    const views = items.map((row): ItemView => {
      const item = sheetItemSchema.parse(JSON.parse(row.sheet))
      const own = byItem.get(row.id) ?? []
      const inHand = own.filter((t) => t.state === 'leased')
      titles.set(row.id, item.title)
      const total = own.reduce((n, t) => n + t.frames_total, 0)
      const done = own.reduce((n, t) => n + (t.state === 'done' ? t.frames_total : t.frames_done), 0)
      const source = item.readings.raster?.value
      const [w, h] = typeof source === 'string' ? source.split('x').map(Number) : [0, 0]
      const seconds = forecastSeconds(item, (w ?? 0) * (h ?? 0))
      if (row.state === 'waiting' || row.state === 'running') left += seconds * (1 - done / Math.max(1, total))
      const proof = row.result && row.state === 'done' ? (JSON.parse(row.result) as Proof) : null
      const doing =
        row.state === 'running'
          ? inHand.length
            ? [...new Set(inHand.map((t) => stepWords[t.kind] ?? t.kind))].join(', ')
            : run.state === 'paused'
              ? 'paused'
              : 'waiting for a worker'
          : row.state === 'waiting'
            ? run.state === 'running'
              ? 'waiting for its turn'
              : run.state
            : row.state
      return {
        id: row.id,
        title: item.title,
        region: item.region.name,
        outlet: item.outlet.name,
        timeline: item.timeline.name,
        path: row.state === 'done' ? row.final_path! : item.target.path,
        state: row.state,
        doing,
        framesDone: row.state === 'done' ? total : done,
        framesTotal: total,
        verdict: proof?.verdict ?? null,
        problem: row.problem ? (JSON.parse(row.problem) as Problem) : null,
        started: row.started,
        finished: row.finished,
        seconds,
      }
    })
    // frames a second over the last half minute, from steps finished and in hand; time left from the share of work done
    // so far
    const window = 30_000
    let frames = 0
    let since = now
    for (const t of tasks) {
      if (t.kind === 'prove' || !t.started) continue
      if (t.state === 'leased') frames += t.frames_done
      else if (t.state === 'done' && t.finished && t.finished > now - window) frames += t.frames_total
      else continue
      since = Math.min(since, Math.max(t.started, now - window))
    }
    const totalSeconds = views.reduce((n, v) => n + v.seconds, 0)
    const started = Math.min(...views.map((v) => (v.started ? Date.parse(v.started) : now)))
    const spent = (now - started) / 1000
    const progress = totalSeconds > 0 ? 1 - left / totalSeconds : 1
    const active = run.state === 'running'
    return {
      id: run.id,
      name: run.name,
      state: run.state,
      workers: run.workers,
      created: run.created,
      finished: run.finished,
      items: views,
      lanes: tasks
        .filter((t) => t.state === 'leased')
        .map((t) => ({
          item: titles.get(t.item_id!) ?? '',
          step: stepWords[t.kind] ?? t.kind,
          framesDone: t.frames_done,
          framesTotal: t.frames_total,
          since: t.started ?? now,
        })),
      framesPerSecond: active && frames > 0 ? frames / Math.max(1, (now - since) / 1000) : 0,
      secondsLeft:
        left <= 0
          ? 0
          : active && progress > 0.05 && spent > 3
            ? (spent / progress) * (1 - progress)
            : left / run.workers,
    }
  }

  async proof(itemId: string): Promise<{ item: SheetItem; proof: Proof; path: string } | null> {
    const row = await this.db
      .selectFrom('item')
      .selectAll()
      .where('id', '=', itemId)
      .where('state', '=', 'done')
      .executeTakeFirst()
    return row?.result
      ? {
          item: sheetItemSchema.parse(JSON.parse(row.sheet)),
          proof: JSON.parse(row.result) as Proof,
          path: row.final_path!,
        }
      : null
  }

  /** Everything finished, newest first. */
  async handover(): Promise<{ item: SheetItem; proof: Proof; path: string; finished: string; run: string }[]> {
    const rows = await this.db
      .selectFrom('item')
      .selectAll()
      .where('state', '=', 'done')
      .orderBy('finished', 'desc')
      .limit(2000)
      .execute()
    return rows.map((r) => ({
      item: sheetItemSchema.parse(JSON.parse(r.sheet)),
      proof: JSON.parse(r.result!) as Proof,
      path: r.final_path!,
      finished: r.finished!,
      run: r.run_id,
    }))
  }

  /** Removes scratch folders that no unfinished deliverable of a run owns. */
  async sweep(): Promise<void> {
    const open = await this.db.selectFrom('item').select('id').where('state', 'in', ['waiting', 'running']).execute()
    const live = new Set(open.map((i) => i.id))
    for (const root of this.roots.list) {
      const top = path.join(root.path, '.velvet-scratch')
      if (!existsSync(top)) continue
      for (const run of await readdir(top)) {
        const folder = path.join(top, run)
        const items = await readdir(folder).catch(() => [] as string[])
        for (const id of items) if (!live.has(id)) await rm(path.join(folder, id), { recursive: true, force: true })
        if (!items.some((id) => live.has(id))) await rm(folder, { recursive: true, force: true })
      }
      if ((await readdir(top)).length === 0) await rm(top, { recursive: true, force: true })
    }
  }
}
