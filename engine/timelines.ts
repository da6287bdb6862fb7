import { randomUUID } from 'node:crypto'
import { readFile, stat } from 'node:fs/promises'
import path from 'node:path'
import { openMedia } from '../core/media/open'
import { mediaTimeBase, type MediaInfo } from '../core/media/info'
import { fail, toProblem, type Problem } from '../core/problem'
import type { Stamp } from '../core/plan/sheet'
import { emptySplit, type Split } from '../core/split/region'
import { readInterchange } from '../core/timeline/interchange'
import { normalSpeed, type Timeline, type TimelineEvent } from '../core/timeline/model'
import { placeTimeline } from '../core/timeline/place'
import { rateText, sameRate } from '../core/time/rate'
import { bump, type Db, type TimelineRow } from './database'
import { openFile } from './disk'
import { factKeys } from './facts'
import { Dispatch } from './dispatch'
import type { Roots } from './roots'
import { stampOf } from './stamp'
import type { BackgroundPayload } from './work'

export interface Place { readonly root: string, readonly path: string }

/** A timeline as stored: what was understood, the media it lies in, and its split. */
export interface StoredTimeline {
  readonly id: string
  readonly show: string
  readonly name: string
  readonly place: Place
  readonly cuts: Place | null
  readonly stamp: Stamp
  readonly info: MediaInfo
  readonly model: Timeline
  readonly problems: readonly Problem[]
  readonly split: Split
  readonly splitVersion: number
}

export function storedTimeline(row: TimelineRow): StoredTimeline {
  return {
    id: row.id, show: row.show, name: row.name, place: { root: row.root, path: row.path }, cuts: row.cuts_path ? (JSON.parse(row.cuts_path) as Place) : null, stamp: JSON.parse(row.stamp) as Stamp, info: JSON.parse(row.info) as MediaInfo,
    model: JSON.parse(row.model) as Timeline, problems: JSON.parse(row.problems) as Problem[], split: JSON.parse(row.split) as Split, splitVersion: row.split_version,
  }
}

const largestList = 64 << 20

/** Brings in timelines and keeps their splits. */
export class Timelines {
  constructor(private readonly db: Db, private readonly roots: Roots, private readonly analysing = true) {}

  async list(): Promise<StoredTimeline[]> {
    return (await this.db.selectFrom('timeline').selectAll().orderBy('created').execute()).map(storedTimeline)
  }

  async get(id: string): Promise<StoredTimeline> {
    const row = await this.db.selectFrom('timeline').selectAll().where('id', '=', id).executeTakeFirst()
    return row ? storedTimeline(row) : fail('timeline.unknown', 'This timeline is not here any more.', id, 'Choose another one.')
  }

  /** Opens a media file, reads its index only, and makes a timeline of it; an edit decision list gives it its cuts. */
  async bringIn(media: Place, options: { readonly cuts?: Place, readonly show?: string, readonly name?: string } = {}): Promise<StoredTimeline> {
    const file = this.roots.resolve(media.root, media.path)
    const source = await openFile(file, media.path)
    let info: MediaInfo
    try {
      info = (await openMedia(source)).info
    }
    finally {
      await source.close()
    }
    if (!info.video[0]) fail('timeline.no-pictures', 'There are no pictures in this file, so there is nothing to lay out as a timeline.', media.path, 'Choose the file that has the pictures; sound files are for checking.')
    const stamp = await stampOf(file)
    const name = options.name ?? path.basename(media.path, path.extname(media.path))
    const show = options.show ?? this.showOf(media)
    const same = await this.db.selectFrom('timeline').select('id').where('show', '=', show).where('name', '=', name).executeTakeFirst()
    if (same) fail('timeline.same-name', `There is already a timeline called “${name}” in “${show}”.`, media.path, 'Give it another name, or remove the old one first.')
    const { model, problems } = await this.understand(info, media, name, options.cuts ?? null)
    const id = randomUUID()
    await this.db.insertInto('timeline').values({
      id, show, name, root: media.root, path: media.path, cuts_path: options.cuts ? JSON.stringify(options.cuts) : null, stamp: JSON.stringify(stamp), info: JSON.stringify(info), model: JSON.stringify(model),
      problems: JSON.stringify(problems), split: JSON.stringify(emptySplit), split_version: 1, created: new Date().toISOString(),
    }).execute()
    await bump(this.db, 'timelines')
    const made = await this.get(id)
    await this.analyse(made)
    return made
  }

  private showOf(media: Place): string {
    const folder = path.posix.dirname(media.path)
    return folder === '.' ? media.root : folder.split('/').at(-1)!
  }

  private async understand(info: MediaInfo, media: Place, name: string, cuts: Place | null): Promise<{ model: Timeline, problems: Problem[] }> {
    const v = info.video[0]!
    const base = mediaTimeBase(info)!
    const timecodeFits = info.timecode !== null && sameRate(base.rate, v.rate)
    const start = timecodeFits ? info.timecode!.startFrames : 0
    const dropFrame = timecodeFits && info.timecode!.dropFrame
    const problems: Problem[] = [...info.problems]
    const whole: TimelineEvent = { track: 'V', kind: 'video', name, reel: path.basename(media.path), file: media.path, source: { in: 0, out: v.frames, rate: v.rate }, speed: normalSpeed, record: { in: 0, out: v.frames }, transition: null }
    let model: Timeline = { name, rate: v.rate, dropFrame, start, length: v.frames, tracks: [{ name: 'V', kind: 'video' }], events: [whole], markers: [] }
    if (cuts) {
      const list = readInterchange(await this.readText(cuts), path.basename(cuts.path), v.rate)
      problems.push(...list.problems)
      if (!sameRate(list.timeline.rate, v.rate)) fail('timeline.rate', `The list runs at ${rateText(list.timeline.rate)} frames a second, the media at ${rateText(v.rate)}.`, cuts.path, 'Choose the list that was made for this media.')
      const placed = placeTimeline(list.timeline, { start, length: v.frames, dropFrame, hasTimecode: timecodeFits }, path.basename(cuts.path))
      problems.push(...placed.problems)
      if (placed.timeline.events.length) model = { ...placed.timeline, name }
      else model = { ...model, start: placed.timeline.start, dropFrame: placed.timeline.dropFrame, markers: placed.timeline.markers }
    }
    if (!info.timecode && !cuts) problems.push({ code: 'timeline.no-timecode', message: 'The file carries no start timecode; the timeline begins at 00:00:00:00.', where: media.path, fix: 'Bring in a cut list with it, or set start timecodes at the outlets.' })
    return { model, problems }
  }

  private async readText(place: Place): Promise<string> {
    const file = this.roots.resolve(place.root, place.path)
    if ((await stat(file)).size > largestList) fail('edl.too-large', 'This is far larger than any edit decision list.', place.path, 'Choose the list, not the media.')
    return readFile(file, 'utf8')
  }

  /** Gives a timeline its cuts from an edit decision list; its regions stay. */
  async attachCuts(id: string, cuts: Place): Promise<StoredTimeline> {
    const t = await this.get(id)
    const { model, problems } = await this.understand(t.info, t.place, t.name, cuts)
    await this.db.updateTable('timeline').set({ model: JSON.stringify(model), problems: JSON.stringify(problems), cuts_path: JSON.stringify(cuts) }).where('id', '=', id).execute()
    await bump(this.db, 'timelines')
    return this.get(id)
  }

  /** Queues what is not known yet about a timeline's media. */
  async analyse(t: StoredTimeline): Promise<void> {
    if (!this.analysing) return
    const dispatch = new Dispatch(this.db)
    const known = await this.db.selectFrom('fact').select('key').where('key', 'in', [factKeys.pictures(t.stamp), factKeys.sound(t.stamp)]).execute()
    const has = new Set(known.map(k => k.key))
    const place = { ...t.place, stamp: t.stamp }
    const jobs: [string, string][] = [['analyse-sound', factKeys.sound(t.stamp)], ['analyse-pictures', factKeys.pictures(t.stamp)]]
    for (const [kind, fact] of jobs) if (!has.has(fact)) await dispatch.addBackground(kind, fact, { fact, place } satisfies BackgroundPayload, t.model.length)
  }

  /** Keeps a split. `version` is the one it was made from; a newer one on the server wins and is a problem. */
  async saveSplit(id: string, split: Split, version: number): Promise<number> {
    const r = await this.db.updateTable('timeline').set({ split: JSON.stringify(split), split_version: version + 1 }).where('id', '=', id).where('split_version', '=', version).executeTakeFirst()
    if (r.numUpdatedRows === 0n) fail('split.moved-on', 'This split was changed in another window in the meantime.', undefined, 'The newer state is shown; make your last change again.')
    await bump(this.db, 'split')
    return version + 1
  }

  async rename(id: string, name: string): Promise<void> {
    const t = await this.get(id)
    await this.db.updateTable('timeline').set({ name, model: JSON.stringify({ ...t.model, name }) }).where('id', '=', id).execute()
    await bump(this.db, 'timelines')
  }

  /** Forgets a timeline and its split; media files stay where they are. */
  async remove(id: string): Promise<void> {
    await this.db.deleteFrom('timeline').where('id', '=', id).execute()
    await bump(this.db, 'timelines')
  }

  /** What is wrong with a timeline's media right now: gone, or replaced. */
  async mediaProblem(t: StoredTimeline): Promise<Problem | null> {
    try {
      const info = await stat(this.roots.resolve(t.place.root, t.place.path))
      if (info.size !== t.stamp.size || Math.round(info.mtimeMs) !== t.stamp.modified) {
        const now = await stampOf(this.roots.resolve(t.place.root, t.place.path))
        if (now.content !== t.stamp.content) return { code: 'media.replaced', message: 'The media file has changed since it was brought in.', where: t.place.path, fix: 'Bring in the new file as a new timeline, or put the old one back.' }
      }
      return null
    }
    catch (e) {
      return toProblem(e, t.place.path)
    }
  }
}
