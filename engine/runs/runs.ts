import { randomBytes } from 'node:crypto'
import { open, rm } from 'node:fs/promises'
import path from 'node:path'
import { makingAll, takingFrom } from '../../core/deliverable/earlier'
import { freeze } from '../../core/deliverable/freeze'
import type { JudgedDraft } from '../../core/deliverable/judged'
import { day } from '../../core/deliverable/names'
import type { EarlierFile, FrozenDeliverable, RunSheet } from '../../core/deliverable/sheet'
import type { Paces } from '../../core/job/paces'
import { fail } from '../../core/problem'
import { needRoom } from '../deliverables/needroom'
import type { FilesUnderWay } from '../deliverables/underway'
import { inTransaction, SqliteQueue } from '../queue/sqlite'
import { flushFolder } from '../storage/durable'
import type { DataFolders } from '../storage/home'
import type { Roots } from '../storage/roots'
import { sweepScratch } from '../storage/scratch'
import { noteChange } from '../store/changes'
import { readable } from '../store/damage'
import type { Db } from '../store/database'
import { deliverableRow, endDeliverable, frozenOf, keepDeliverable, picturesSum } from '../store/deliverables'
import { runRow } from '../store/runs'
import { kept } from '../store/stored'
import { installationOf } from '../store/settings'
import { machineAbilities } from '../worker/codecs'
import { offersOf } from './offers'

/** A sheet whose deliverables are frozen one by one as they are read, so that thousands are never held at once. */
type FreezingSheet = Omit<RunSheet, 'deliverables'> & { readonly deliverables: Iterable<FrozenDeliverable> }

/** Freezes deliverables into run sheets and looks after the runs. */
export class Runs {
  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly folders: DataFolders,
    private readonly underWay: FilesUnderWay,
    /** What machines that take part can, by the names of abilities. */
    private readonly joined: () => ReadonlySet<string> = () => new Set(),
  ) {}

  /**
   * Freezes judged drafts into a run sheet, without starting anything; each when it is asked for. Pictures that several
   * would code alike are coded by the first: the others take them once it is proven.
   */
  freeze(name: string, workers: number, list: Iterable<JudgedDraft>, paces: Paces = new Map()): FreezingSheet {
    const today = new Date()
    const now = today.toISOString()
    const run = `${now.slice(0, 10).replaceAll('-', '')}-${randomBytes(3).toString('hex')}`
    const deliverables = (function* () {
      let n = 0
      const coded = new Map<string, EarlierFile>()
      for (const d of list) {
        const own = (judged: JudgedDraft) => freeze(judged, `${run}-${String(n).padStart(3, '0')}`, day(today))
        n++
        const frozen = own(d)
        const pictures = d.earlier ? null : picturesSum(frozen)
        const first = pictures === null ? undefined : coded.get(pictures)
        if (pictures !== null && !first) coded.set(pictures, earlierOf(frozen))
        yield first ? own(takingFrom(d, first, paces, `${first.id}/prove`)) : frozen
      }
    })()
    return { format: 'velvet-crane-run-sheet/2', run, name, created: now, workers, deliverables }
  }

  /** Keeps a sheet and starts it. Of two that would get one name the later takes the next version when it is named. */
  async start(sheet: FreezingSheet): Promise<string> {
    const { run: id, name, workers, created, deliverables, ...head } = sheet
    const able = await machineAbilities()
    const sheetName = `${id}.json`
    const file = path.join(this.folders.runs, sheetName)
    const out = await open(file, 'wx')
    try {
      await inTransaction(this.db, async (tx) => {
        const state = 'running' as const
        const row = { id, name, state, workers, created, finished: null, sheet: sheetName }
        await tx.insertInto('run').values(row).execute()
        await out.writeFile(
          `${JSON.stringify({ ...head, run: id, name, created, workers }).slice(0, -1)},"deliverables":[`,
        )
        const queue = new SqliteQueue(tx)
        let position = 0
        for (const d of deliverables) {
          await out.writeFile(`${position ? ',' : ''}\n${JSON.stringify(d)}`)
          await keepDeliverable(tx, id, position, d)
          await queue.offer(offersOf(id, position++, d, able, this.joined()))
        }
        if (position === 0)
          fail(
            'run.empty',
            'There is nothing to run: no deliverable is cleared.',
            undefined,
            'Choose deliverables at the Outlets, and mend or waive what fails at the Checks.',
          )
        await out.writeFile('\n]}\n')
        // on the disk before the run is: what was frozen is never missing from a run that is there
        await out.sync()
        await flushFolder(this.folders.runs)
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
    const before = await runRow(this.db, id)
    if (state === 'running' && before.state === 'stopped') await this.needRoom(await this.left(id))
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
    await runRow(this.db, id)
    await this.db.updateTable('run').set({ workers }).where('id', '=', id).execute()
    await noteChange(this.db, 'runs', id)
  }

  async skip(deliverable: string): Promise<void> {
    await deliverableRow(this.db, deliverable)
    await inTransaction(this.db, (tx) => endDeliverable(tx, deliverable, 'skipped', null))
  }

  /** Runs a failed or skipped deliverable again, from its frozen sheet. */
  async again(deliverable: string): Promise<void> {
    const row = await deliverableRow(this.db, deliverable)
    if (row.state !== 'failed' && row.state !== 'skipped') return
    // what was taken from an earlier file may be what is wrong
    const item = makingAll(frozenOf(row))
    if (item.steps.length === 0)
      fail(
        'run.earlier-edition',
        'This was frozen by an earlier edition and is not made from its sheet any more.',
        item.target.path,
        'Start it again from the Night run: it is frozen anew.',
      )
    await this.needRoom([item])
    const able = await machineAbilities()
    await inTransaction(this.db, async (tx) => {
      await tx.deleteFrom('step').where('deliverable_id', '=', deliverable).execute()
      await tx
        .updateTable('deliverable')
        .set({
          state: 'waiting',
          sheet: kept.frozen.write(item),
          problem: null,
          result: null,
          verdict: null,
          final_path: null,
          started: null,
          finished: null,
        })
        .where('id', '=', deliverable)
        .execute()
      await new SqliteQueue(tx).offer(offersOf(row.run_id, row.position, item, able, this.joined()))
      await tx
        .updateTable('run')
        .set({ state: 'running', finished: null })
        .where('id', '=', row.run_id)
        .where('state', '=', 'done')
        .execute()
    })
    await noteChange(this.db, 'runs', row.run_id)
  }

  /** The deliverables of a run as they were frozen, in their order; those that can be read. */
  async frozen(id: string): Promise<FrozenDeliverable[]> {
    await runRow(this.db, id)
    return readable(this.db, await this.sheets(id).execute(), frozenOf)
  }

  private sheets(id: string) {
    return this.db.selectFrom('deliverable').select(['id', 'sheet']).where('run_id', '=', id).orderBy('position')
  }

  /** What a run still has to make, of what can be read. */
  private async left(id: string): Promise<FrozenDeliverable[]> {
    const rows = await this.sheets(id).where('state', 'in', ['waiting', 'running']).execute()
    return readable(this.db, rows, frozenOf)
  }

  private needRoom(files: readonly FrozenDeliverable[]): Promise<void> {
    const going = files.map(({ id, target, output, steps }) => ({ id, root: target.root, output, steps }))
    return needRoom(this.roots, this.underWay, going)
  }

  /** Starts everything of a run once more, as it was frozen; files that are there get the next version beside them. */
  async repeat(id: string): Promise<string> {
    const before = await this.frozen(id)
    if (before.some((d) => d.steps.length === 0))
      fail(
        'run.earlier-edition',
        'This was frozen by an earlier edition and is not made from its sheet any more.',
        id,
        'Start it from the Night run: it is frozen anew.',
      )
    const { name, workers } = await runRow(this.db, id)
    const { run, created, ...head } = this.freeze(`${name.replace(/, again$/, '')}, again`, workers, [])
    const ids = new Map(before.map((d, i) => [d.id, `${run}-${String(i + 1).padStart(3, '0')}`]))
    const needed = (need: string) => {
      const at = need.lastIndexOf('/')
      return at < 0 ? need : `${ids.get(need.slice(0, at)) ?? need.slice(0, at)}${need.slice(at)}`
    }
    const deliverables = before.map((d) => ({
      ...d,
      id: ids.get(d.id)!,
      ...(d.earlier ? { earlier: { ...d.earlier, id: ids.get(d.earlier.id) ?? d.earlier.id } } : {}),
      steps: d.steps.map((s) => ({ ...s, needs: s.needs.map(needed) })),
    }))
    await this.needRoom(deliverables)
    return this.start({ ...head, run, created, deliverables })
  }

  async remove(id: string): Promise<void> {
    await this.setState(id, 'stopped')
    await this.db.deleteFrom('run').where('id', '=', id).execute()
    await this.sweep()
    await noteChange(this.db, 'runs', id)
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
}

const earlierOf = ({ id, target: { root, path } }: FrozenDeliverable): EarlierFile => ({ id, root, path })
