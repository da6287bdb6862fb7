import { availableParallelism } from 'node:os'
import { ProblemError } from '../core/problem'
import { Deliverables } from './deliverables/deliverables'
import { FilesUnderWay } from './deliverables/underway'
import { Nights } from './deliverables/nights'
import { Outlets } from './deliverables/outlets'
import { Live } from './live/live'
import { log, logInto } from './log'
import { Machines } from './machines/machines'
import type { Queue } from './queue/port'
import { SqliteQueue } from './queue/sqlite'
import { AwayRoots } from './runs/away'
import { Received } from './received/received'
import { Handover } from './runs/handover'
import { RunProgress } from './runs/progress'
import { Runs } from './runs/runs'
import { noteChange } from './store/changes'
import { sweepCache } from './storage/cache'
import { dataFolders, type DataFolders } from './storage/home'
import { knownRoots } from './storage/knownroots'
import { lockData, type DataLock } from './storage/lock'
import { Roots, type Root } from './storage/roots'
import { Uploads } from './storage/uploads'
import { keepCopy, prepareDatabase } from './store/copies'
import { damagedRows } from './store/damage'
import { openDatabase, type Db } from './store/database'
import { installationOf } from './store/settings'
import { Timelines } from './timelines/timelines'
import { Viewing } from './timelines/viewing'
import { Watcher } from './timelines/watcher'
import { Tryouts } from './tryouts/tryouts'
import { WorkerPool } from './worker/pool'

export interface SessionOptions {
  readonly data: string
  readonly roots: readonly (string | Root)[]
  /** Worker processes; none in tools that only look. */
  readonly workers?: number
  /** Whether the watched folder is looked at, and pictures are asked for: in the server only. */
  readonly watch?: boolean
  /** Whether timelines brought in are looked through in the background; not for a single export. */
  readonly analyse?: boolean
  /** Minutes that a step waits for a storage root that is away. */
  readonly patience?: number
}

const aDay = 24 * 60 * 60 * 1000

const folderOf = (root: string | Root) => (typeof root === 'string' ? root : root.path)

/** The one object a process opens: everything the stations need, put together. It holds no work of its own. */
export class Session {
  private daily: NodeJS.Timeout | undefined
  private completing: Promise<void> = Promise.resolve()
  private closing = false

  private constructor(
    private readonly lock: DataLock,
    readonly db: Db,
    readonly roots: Roots,
    readonly folders: DataFolders,
    readonly queue: Queue,
    readonly pool: WorkerPool,
    readonly timelines: Timelines,
    readonly viewing: Viewing,
    readonly outlets: Outlets,
    readonly deliverables: Deliverables,
    readonly runs: Runs,
    readonly progress: RunProgress,
    readonly handover: Handover,
    readonly nights: Nights,
    readonly uploads: Uploads,
    readonly watcher: Watcher,
    readonly live: Live,
    readonly away: AwayRoots,
    readonly machines: Machines,
    readonly received: Received,
    readonly tryouts: Tryouts,
  ) {}

  static async open(options: SessionOptions): Promise<Session> {
    const folders = dataFolders(options.data)
    const lock = await lockData(folders.data)
    try {
      if (options.watch) logInto(folders.data)
      await prepareDatabase(folders.database)
      const db = await openDatabase(folders.database)
      const roots = new Roots(options.watch ? await knownRoots(db, options.roots.map(folderOf)) : options.roots)
      const queue = new SqliteQueue(db)
      const installation = await installationOf(db)
      const pool = new WorkerPool(queue, options.data, roots.list, () => void noteChange(db, 'outlets', ''))
      const timelines = new Timelines(db, roots, queue, options.analyse ?? true)
      const outlets = new Outlets(db, roots)
      const underWay = new FilesUnderWay(db, roots, installation)
      const deliverables = new Deliverables(db, roots, queue, timelines.media, underWay)
      const machines = new Machines(db, roots, queue, folders.cache, () => noteChange(db, 'outlets', ''))
      const runs = new Runs(db, roots, folders, underWay, () => machines.abilities())
      const progress = new RunProgress(
        db,
        (worker) => machines.workerOf(worker) ?? { machine: null, memory: pool.memory.get(worker) ?? null },
      )
      const handover = new Handover(db)
      const nights = new Nights(db, timelines, outlets, deliverables, runs)
      const session = new Session(
        lock,
        db,
        roots,
        folders,
        queue,
        pool,
        timelines,
        new Viewing(db, roots, folders.cache, pool, timelines),
        outlets,
        deliverables,
        runs,
        progress,
        handover,
        nights,
        new Uploads(roots, installation),
        new Watcher(db, roots, timelines),
        new Live(db, timelines, nights, deliverables, progress, handover),
        new AwayRoots(queue, roots, () => noteChange(db, 'outlets', ''), options.patience),
        machines,
        new Received(db, roots, queue, outlets),
        new Tryouts(db, queue, nights, pool, folders.cache),
      )
      await session.begin(options)
      return session
    } catch (e) {
      lock.release()
      if (!(e instanceof ProblemError)) log().fatal({ err: e }, 'the session could not be opened')
      throw e
    }
  }

  private async begin(options: SessionOptions): Promise<void> {
    // whoever holds the lock of the data folder knows that no worker of an earlier session is left
    await this.queue.reclaim('')
    await this.runs.sweep()
    await this.clearCache()
    for (const t of await this.timelines.list()) await this.timelines.analyse(t)
    this.completing = this.complete()
    if (options.watch) {
      await this.keepCopy()
      this.watcher.start()
      this.received.start()
      this.timelines.media.start()
      this.daily = setInterval(() => void this.clearCache(), aDay).unref()
      this.pool.warm()
    }
    this.away.start()
    await this.machines.start()
    this.pool.start(options.workers ?? Math.max(2, availableParallelism()))
  }

  /** Brings timelines of earlier editions up to date, one after the other: some media takes long to be opened. */
  private async complete(): Promise<void> {
    for (const t of await this.timelines.list()) {
      if (this.closing) return
      await this.timelines
        .complete(t)
        .catch((err: unknown) => log().error({ err, timeline: t.name }, 'a timeline could not be completed'))
    }
  }

  /** Keeps a copy of the database while no worker is writing yet, when all of it could be read. */
  private async keepCopy(): Promise<void> {
    await this.outlets.all()
    if (damagedRows(this.db).length > 0) return
    await keepCopy(this.db, this.folders.database).catch((err: unknown) =>
      log().error({ err }, 'no copy of the database could be kept'),
    )
  }

  private clearCache(): Promise<void> {
    return sweepCache(this.db, this.folders.cache, this.timelines).catch((err: unknown) =>
      log().error({ err }, 'the cache could not be cleared'),
    )
  }

  async close(): Promise<void> {
    this.closing = true
    await this.completing
    clearInterval(this.daily)
    this.watcher.stop()
    this.received.stop()
    this.timelines.media.stop()
    this.live.close()
    this.away.stop()
    this.machines.stop()
    await this.pool.stop()
    await this.db.destroy()
    this.lock.release()
  }
}
