import path from 'node:path'
import { toProblem } from '../../core/problem'
import type { Entry, WatchState } from '../../contract/files'
import { isPictureFile, isTimelineFile } from '../../core/files/kinds'
import type { FilePath } from '../../core/media/filepath'
import { Polling } from '../polling'
import { noteChange } from '../store/changes'
import type { Db } from '../store/database'
import { readSetting, writeSetting } from '../store/settings'
import type { Roots } from '../storage/roots'
import type { Timelines } from './timelines'

const mark = (e: Entry) => `${e.name}\0${e.size}\0${e.modified}`

/**
 * Brings in what arrives in a watched folder, once a file has stopped growing. A list beside media of its name goes
 * with it.
 */
export class Watcher {
  private readonly polling = new Polling('the watched folder', () => this.poll())
  private before = new Set<string>()
  private problems: WatchState['problems'] = []

  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly timelines: Timelines,
  ) {}

  async state(): Promise<WatchState> {
    return {
      folder: (await readSetting(this.db, 'watch'))?.folder ?? null,
      problems: this.problems,
    }
  }

  /** Watches a folder from now on; what is in it already is left alone. */
  async watch(folder: FilePath | null): Promise<WatchState> {
    const there = folder ? await this.roots.entries(folder.root, folder.path) : []
    await writeSetting(this.db, 'watch', folder && { folder, seen: there.filter((e) => !e.folder).map(mark) })
    this.before = new Set()
    this.problems = []
    return this.state()
  }

  /** Looks every few seconds until stopped. */
  start(everyMs = 3000): void {
    this.polling.start(everyMs)
  }

  stop(): void {
    this.polling.stop()
  }

  /** One look: files that are as they were at the last look are complete and are brought in. */
  async poll(): Promise<void> {
    const watched = await readSetting(this.db, 'watch')
    if (!watched) return
    const entries = (await this.roots.entries(watched.folder.root, watched.folder.path)).filter(
      (e) => !e.folder && (isPictureFile(e.name) || isTimelineFile(e.name)),
    )
    const fresh = entries.filter((e) => !watched.seen.includes(mark(e)))
    const complete = fresh.filter((e) => this.before.has(mark(e)))
    this.before = new Set(fresh.map(mark))
    // a list waits for media of its name that is still growing
    const stem = (e: Entry) => e.name.replace(/\.[^.]+$/, '').toLowerCase()
    const growing = new Set(fresh.filter((e) => !complete.includes(e)).map(stem))
    const ready = complete.filter((e) => !growing.has(stem(e)))
    if (ready.length === 0) return
    await writeSetting(this.db, 'watch', {
      ...watched,
      seen: [...watched.seen, ...ready.map(mark)].slice(-5000),
    })
    for (const e of ready) {
      const isList = isTimelineFile(e.name)
      if (isList && ready.some((m) => !isTimelineFile(m.name) && stem(m) === stem(e))) continue
      const list = isList ? undefined : ready.find((l) => isTimelineFile(l.name) && stem(l) === stem(e))
      try {
        await this.timelines.bringIn(
          { root: watched.folder.root, path: e.path },
          list ? { cuts: { root: watched.folder.root, path: list.path } } : {},
        )
      } catch (error) {
        this.problems = [...this.problems, { file: e.name, problem: toProblem(error, path.basename(e.path)) }].slice(-8)
        await noteChange(this.db, 'timelines', '')
      }
    }
  }
}
