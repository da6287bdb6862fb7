import { createWriteStream, existsSync } from 'node:fs'
import { mkdir, open, rename, rm } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import path from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { setTimeout as sleep } from 'node:timers/promises'
import { encodePcm } from '../core/codec/pcm/pcm'
import { fail, type Problem } from '../core/problem'
import type { Frames } from '../core/time/rate'
import { sampleAtFrame } from '../core/time/samples'
import { wavHead } from '../core/container/wav/write'
import { fileSafe } from '../core/deliverable/names'
import { freePath } from '../core/deliverable/versions'
import { machineAbilities, machineCodecs } from './worker/codecs'
import { Crew, ownerAlive } from './worker/pool'
import { clearCache } from './storage/cache'
import { openDatabase, type Db } from './store/database'
import { workOut, type Deliverable, type Situation } from './deliverables/deliverables'
import { Dispatch } from './queue/sqlite'
import { factKeys, readFacts } from './store/facts'
import { dataFolders, type DataFolders } from './storage/home'
import { Outlets } from './deliverables/outlets'
import { previewWidth, readPreview } from './storage/framestore'
import { Roots, type Root } from './storage/roots'
import { Runs } from './runs/runs'
import { openSource, originOf, type SourcePlace } from './worker/source'
import type { SoundAnalysis } from './worker/steps/analysesound'
import type { PictureFacts } from '../core/spec/reading'
import { sourcePlace, Timelines, uploadFolder, type Place, type StoredTimeline } from './timelines/timelines'
import { trimAssembly } from '../core/timeline/assemble'
import type { Source } from '../core/timeline/link'
import { compareCuts, hasCuts, type CutComparison } from '../core/timeline/comparecuts'
import { Watcher } from './timelines/watcher'

export interface EngineOptions {
  readonly data: string
  readonly roots: readonly (string | Root)[]
  /** Worker processes; none in tools that only look. */
  readonly crew?: number
  /** Whether the watched folder is looked at, and pictures are asked for: in the server only. */
  readonly watch?: boolean
  /** Whether timelines brought in are looked through in the background; not for a single export. */
  readonly analyse?: boolean
}

/** How far the background pass over a timeline's media has come. */
export interface AnalysisState {
  readonly pictures: PictureFacts | null
  /** Without what only readings of regions need. */
  readonly sound: Omit<SoundAnalysis, 'shape' | 'damage'> | null
  /** 0…1. */
  readonly progress: number
}

/** A timeline as the stations show it: its assembly stays behind, its sources say how they are now. */
export interface ShownTimeline extends Omit<StoredTimeline, 'linking'> {
  readonly assembled: boolean
  readonly sources: readonly Source[]
  readonly mediaProblem: Problem | null
  readonly analysis: AnalysisState
  /** The cuts of its list against those found in its pictures, once they are known. */
  readonly comparison: CutComparison | null
}

/** A timeline's source, cut down to what some frames of it need. */
function pictureFrom(t: StoredTimeline, from: Frames, to = from + 1): SourcePlace {
  const place = sourcePlace(t)
  return place.assembly ? { ...place, assembly: trimAssembly(place.assembly, { in: from, out: to }) } : place
}

/** The one engine object of a process: storage roots, database, workers, and the stations' work behind the routes. */
export class Engine {
  private daily: NodeJS.Timeout | undefined

  private constructor(
    readonly db: Db,
    readonly roots: Roots,
    readonly folders: DataFolders,
    readonly crew: Crew,
    readonly timelines: Timelines,
    readonly outlets: Outlets,
    readonly runs: Runs,
    readonly watcher: Watcher,
  ) {}

  static async open(options: EngineOptions): Promise<Engine> {
    const folders = dataFolders(options.data)
    const roots = new Roots(options.roots)
    const db = await openDatabase(folders.database)
    await new Dispatch(db).release((owner) => !ownerAlive(owner))
    const crew = new Crew(db, options.data, roots.list)
    const timelines = new Timelines(db, roots, options.analyse ?? true)
    const engine = new Engine(
      db,
      roots,
      folders,
      crew,
      timelines,
      new Outlets(db, roots),
      new Runs(db, roots, folders),
      new Watcher(db, roots, timelines),
    )
    await engine.runs.sweep()
    await engine.clearCache().catch(() => undefined)
    for (const t of await engine.timelines.list()) await engine.timelines.analyse(t)
    if (options.watch) {
      engine.watcher.start()
      engine.daily = setInterval(() => void engine.clearCache().catch(() => undefined), 24 * 60 * 60 * 1000).unref()
      crew.warm()
    }
    crew.hire(options.crew ?? Math.max(2, availableParallelism()))
    return engine
  }

  async close(): Promise<void> {
    clearInterval(this.daily)
    this.watcher.stop()
    this.crew.stop()
    await this.db.destroy()
  }

  /** Makes room: what no timeline shows and no deliverable needs goes out of the cache when it has become too much. */
  private async clearCache(): Promise<void> {
    const timelines = await this.timelines.list()
    const items = await this.db.selectFrom('item').select('id').execute()
    const contents = timelines.flatMap((t) => [
      t.fingerprint.content,
      ...(t.linking?.assembly.sources ?? []).map((s) => s.fingerprint.content),
    ])
    await clearCache(this.folders.cache, new Set(contents), new Set(items.map((i) => i.id)))
  }

  async situation(): Promise<Situation> {
    const [timelines, outlets, specs, assignments, abilities] = await Promise.all([
      this.timelines.list(),
      this.outlets.list(),
      this.outlets.specs(),
      this.outlets.assignments(),
      machineAbilities(),
    ])
    return { timelines, outlets, specs, assignments, abilities }
  }

  async deliverables(): Promise<Deliverable[]> {
    return workOut(this.db, this.roots, await this.situation())
  }

  /** Freezes all cleared deliverables (or those of `keys`, `timeline/region/outlet`) into a run and starts it. */
  async startRun(name: string, workers: number, keys: readonly string[] | null = null): Promise<string> {
    const s = await this.situation()
    let all = await workOut(this.db, this.roots, s)
    // sound that is being measured right now decides whether a file is cleared: it is worth a short wait
    for (let i = 0; i < 100 && all.some((d) => d.soundPending); i++) {
      await sleep(200)
      all = await workOut(this.db, this.roots, s)
    }
    const chosen = all.filter(
      (d) => d.cleared && (!keys || keys.includes(`${d.timelineId}/${d.regionId}/${d.outletId}`)),
    )
    return this.runs.start(this.runs.freeze(name, workers, chosen, s.timelines, s.outlets, s.specs))
  }

  async shown({ linking, ...t }: StoredTimeline): Promise<ShownTimeline> {
    const whole = { ...t, linking }
    const analysis = await this.analysis(whole)
    const found = analysis.pictures?.cuts
    return {
      ...t,
      assembled: linking !== null,
      sources: await this.timelines.sources(whole),
      mediaProblem: await this.timelines.mediaProblem(whole),
      analysis,
      comparison: found && !linking && hasCuts(t.model) ? compareCuts(t.model, found) : null,
    }
  }

  async analysis(t: StoredTimeline): Promise<AnalysisState> {
    const keys = [factKeys.pictures(t.fingerprint), factKeys.sound(t.fingerprint)]
    const facts = await readFacts(this.db, keys)
    // what is queued or in hand, against everything: the sound and every frame of the pictures count alike
    const tasks = await this.db
      .selectFrom('task')
      .select(['kind', 'frames_done', 'frames_total'])
      .where('key', 'like', `%/${t.fingerprint.content}-${t.fingerprint.size}%`)
      .where('kind', 'in', ['analyse-sound', 'analyse-segment', 'merge-segments'])
      .where('state', 'in', ['ready', 'leased'])
      .execute()
    const left = tasks.reduce(
      (n, x) => n + (x.frames_total - x.frames_done) / (x.kind === 'analyse-segment' ? 1 : 10),
      0,
    )
    const progress = Math.max(0, Math.min(1, 1 - left / Math.max(1, t.model.length * 1.2)))
    const heard = facts.get(keys[1]!) as SoundAnalysis | null | undefined
    const { shape: _shape, damage: _damage, ...sound } = heard ?? ({} as SoundAnalysis)
    return {
      pictures: (facts.get(keys[0]!) as PictureFacts | undefined) ?? null,
      sound: heard ? sound : null,
      progress,
    }
  }

  /** The picture of a frame as JPEG: from the previews when a small one will do, else decoded now. */
  async picture(t: StoredTimeline, frame: number, width: number): Promise<Buffer> {
    if (!Number.isInteger(frame) || frame < 0 || frame >= t.model.length)
      fail('frame.outside', `Frame ${frame} lies outside the timeline.`, t.name)
    const place = pictureFrom(t, frame)
    const preview =
      width <= previewWidth
        ? await readPreview(this.folders.cache, originOf(place, t.linking?.infos ?? [])(frame))
        : null
    return preview ?? this.crew.picture(place, frame, width)
  }

  /** Sound of a range for listening: the first two channels, 16 bit, at most five minutes. */
  async listen(t: StoredTimeline, from: Frames, to: Frames): Promise<Buffer> {
    if (!Number.isInteger(from) || !Number.isInteger(to) || from < 0 || to <= from)
      fail('frame.outside', 'This range lies outside the timeline.', t.name)
    const source = await openSource(this.roots, machineCodecs(), pictureFrom(t, from, to))
    try {
      const { sound } = source
      if (!sound) fail('media.no-sound', 'There is no sound in this timeline.', t.name)
      const first = sampleAtFrame(from, t.model.rate, sound.sampleRate)
      const count = Math.min(
        sampleAtFrame(Math.min(to, t.model.length), t.model.rate, sound.sampleRate) - first,
        sound.sampleRate * 300,
      )
      const channels = (await sound.read(first, count)).slice(0, 2)
      const head = wavHead({
        channels: channels.length,
        sampleRate: sound.sampleRate,
        bitDepth: 16,
        samples: count,
        bext: {
          description: '',
          originator: '',
          originatorReference: '',
          date: '',
          time: '',
          timeReference: 0,
          loudness: null,
          history: '',
        },
      })
      return Buffer.concat([head, encodePcm(channels, 16, true)])
    } finally {
      await source.close()
    }
  }

  /** Takes a file that was dropped on the page into the first storage root, under a free name. */
  async takeUpload(name: string, body: ReadableStream<Uint8Array>): Promise<Place> {
    const root =
      this.roots.list[0] ??
      fail('root.none', 'There is no storage root to put files into.', name, 'Start the server with --storage DIR.')
    const safe = fileSafe(path.basename(name).replace(/\.[^.]*$/, '')) || 'file'
    const extension = /\.[A-Za-z0-9]{1,8}$/.exec(name)?.[0] ?? ''
    const scratch = path.join(
      await this.roots.scratch(root.name, 'incoming'),
      `${Date.now()}-${Math.random().toString(36).slice(2)}.part`,
    )
    try {
      await pipeline(Readable.fromWeb(body as never), createWriteStream(scratch))
      const handle = await open(scratch, 'r+')
      await handle.sync()
      await handle.close()
      const { path: target } = await freePath(
        (v) => `${uploadFolder}/${safe}${v === 1 ? '' : `_v${String(v).padStart(2, '0')}`}${extension}`,
        (p) => existsSync(this.roots.resolve(root.name, p)),
      )
      const full = this.roots.resolve(root.name, target)
      await mkdir(path.dirname(full), { recursive: true })
      await rename(scratch, full)
      return { root: root.name, path: target }
    } catch (e) {
      await rm(scratch, { force: true })
      throw e
    }
  }
}
