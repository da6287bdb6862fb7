import { randomUUID } from 'node:crypto'
import path from 'node:path'
import { grouped } from '../../core/group'
import { isChapterFile, isTimelineFile } from '../../core/files/kinds'
import { fail, type Problem } from '../../core/problem'
import type { FilePath } from '../../core/media/filepath'
import { looksKept } from '../../core/split/edit'
import { applyPatch, type Patch } from '../../core/split/patch'
import { sameSplit, type Split } from '../../core/split/region'
import { rangesBy } from '../../core/split/makers/registry'
import type { SplitTimeline } from '../../core/split/timeline'
import { compareVersions, type Change } from '../../core/timeline/versions'
import { readInterchange } from '../../core/timeline/formats/registry'
import { linksBySource } from '../../core/timeline/link/link'
import {
  troubled,
  troublesIn,
  type LinkChoices,
  type Source,
  type SourceTrouble,
} from '../../core/timeline/link/source'
import { trimEvent, type SoundTracks, type Timeline } from '../../core/timeline/model'
import { describedEdition, type Scan } from '../../core/media/media'
import { saidOf } from '../../core/media/scan'
import type { Frames, Rate } from '../../core/time/rate'
import type { Queue } from '../queue/port'
import { changesAfter, lastChange, noteChange, type Topic } from '../store/changes'
import type { Db, TimelineRow } from '../store/database'
import { readable } from '../store/damage'
import { timelineColumns, timelineOf, withSplit } from '../store/timelines'
import { askForAnalysis } from './analysis'
import { likenessOf } from './likeness'
import type { Likeness } from '../../contract/timelines'
import { linkedAgain, linkMedia, type Linked } from './linking'
import { flattenedWithCuts, newFromList, newFromMedia, type BringInOptions, type NewTimeline } from './bringin'
import { completed } from './completed'
import { atRate, startingAt } from './clock'
import { infoTakenAs } from './fields'
import { readListText } from './listtext'
import { readingTracks } from './soundtracks'
import { settling } from './settle'
import { MediaIndex } from './mediaindex'
import { MediaHealth } from './mediahealth'
import { alike, versionOf } from './naming'
import type { SumLists } from '../storage/listedsums'
import type { Roots } from '../storage/roots'
import type { SourceRef } from '../worker/sources/source'

/** Where steps read a timeline's pictures and sound. */
export function sourceOf(t: Pick<SplitTimeline, 'file' | 'fingerprint' | 'info' | 'linking'>): SourceRef {
  return { ...t.file, fingerprint: t.fingerprint, assembly: t.linking?.assembly ?? null, ...saidOf(t.info) }
}

/**
 * What a split begins with: markers and chapters that came with the timeline, and a region for each timeline it holds.
 */
function firstSplit(t: Timeline): Split {
  return {
    regions: rangesBy('parts', { timeline: t }).map((r) => ({ id: randomUUID(), ...r, metadata: {} })),
    markers: t.markers
      .filter((m) => m.kind !== 'part' && m.at >= 0 && m.at < t.length)
      .map((m) => ({ id: randomUUID(), at: m.at, name: m.name })),
  }
}

/** The split was changed since what was asked for was made from it. */
const movedOn = (): never =>
  fail(
    'split.moved-on',
    'This split was changed in another window in the meantime.',
    undefined,
    'Read it again, and make the change to what it is now.',
  )

/** What is said of a file that is there, and is another one. */
const replacing = new Set(['media.replaced', 'media.other-sum'])

/** Brings in timelines and keeps their splits. */
export class Timelines {
  /** What is wrong with media right now. */
  readonly media: MediaHealth
  private readonly index: MediaIndex
  /** What was listed last, and the change it was listed after. */
  private listed: { readonly at: number; readonly all: SplitTimeline[] } = { at: -1, all: [] }

  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly queue: Queue,
    private readonly analysing = true,
  ) {
    this.media = new MediaHealth(db, roots, queue, () => this.list(), analysing)
    this.index = new MediaIndex(
      roots,
      settling(db, () => this.list()),
    )
  }

  /** All timelines, oldest first. What did not change since the last call stays the same objects. */
  async list(): Promise<SplitTimeline[]> {
    const changes = this.listed.at < 0 ? null : await changesAfter(this.db, this.listed.at)
    const at = changes ? (changes.at(-1)?.id ?? this.listed.at) : await lastChange(this.db)
    const touched = (topic: Topic) => changes?.filter((c) => c.topic === topic).map((c) => c.key) ?? []
    if (!changes || touched('timelines').length > 0) {
      const rows = await this.db.selectFrom('timeline').selectAll().orderBy('created').execute()
      this.listed = { at, all: readable(this.db, rows, timelineOf) }
      return this.listed.all
    }
    let { all } = this.listed
    for (const id of new Set(touched('split'))) {
      const row = await this.db
        .selectFrom('timeline')
        .select(['split', 'split_version'])
        .where('id', '=', id)
        .executeTakeFirst()
      if (row) all = all.map((t) => (t.id === id ? withSplit(t, row.split, row.split_version) : t))
    }
    this.listed = { at, all }
    return all
  }

  async get(id: string): Promise<SplitTimeline> {
    const row = await this.db.selectFrom('timeline').selectAll().where('id', '=', id).executeTakeFirst()
    return row
      ? timelineOf(row)
      : fail('timeline.unknown', 'This timeline is not here any more.', id, 'Choose another one.')
  }

  /**
   * Brings in a flattened media file (its index is read only; a list gives it its cuts), or an interchange file, whose
   * media is looked for below the storage roots. `rate` is for formats that do not carry one.
   */
  async bringIn(place: FilePath, options: BringInOptions = {}): Promise<SplitTimeline> {
    return this.keep(
      isTimelineFile(place.path)
        ? await newFromList(this.db, this.roots, this.index, place, options)
        : await newFromMedia(this.db, this.roots, this.index, place, options),
    )
  }

  /** Looks for media again, with what a person chose; regions stay. */
  async relink(
    id: string,
    choose: { readonly files?: LinkChoices['files']; readonly folder?: FilePath } = {},
  ): Promise<SplitTimeline> {
    const t = await this.get(id)
    if (!t.linking)
      fail(
        'timeline.flattened',
        'This timeline is one flattened file; there is nothing to link.',
        t.name,
        'Bring in the new file as a new timeline.',
      )
    const before = t.linking.choices
    const folders = choose.folder
      ? [
          choose.folder,
          ...before.folders.filter((f) => f.root !== choose.folder!.root || f.path !== choose.folder!.path),
        ]
      : before.folders
    const link = await linkMedia(this.index, t.model, path.basename(t.file.path), {
      files: { ...before.files, ...choose.files },
      folders,
    })
    await this.db.updateTable('timeline').set(timelineColumns(link)).where('id', '=', id).execute()
    await noteChange(this.db, 'timelines', id)
    // linking takes long: what was edited meanwhile stays
    const { split, splitVersion } = await this.get(id)
    const kept = looksKept(split, t.linking.assembly, link.linking.assembly)
    if (kept !== split) await this.saveSplit(id, kept, splitVersion)
    const now = await this.get(id)
    await this.analyse(now)
    return now
  }

  private async keep(t: NewTimeline): Promise<SplitTimeline> {
    const id = randomUUID()
    await this.db
      .insertInto('timeline')
      .values({
        ...(timelineColumns({
          ...t,
          model: { ...t.model, name: t.name },
          split: firstSplit(t.model),
          splitVersion: 1,
        }) as TimelineRow),
        id,
        created: new Date().toISOString(),
      })
      .execute()
    await noteChange(this.db, 'timelines', id)
    const made = await this.get(id)
    await this.analyse(made)
    return made
  }

  /** What changed against the version before; null when there is none. */
  async changes(id: string): Promise<{ readonly against: string; readonly changes: readonly Change[] } | null> {
    const all = await this.list()
    const t = all.find((x) => x.id === id) ?? (await this.get(id))
    const { stem, version } = versionOf(t.name)
    const older = all
      .filter(
        (x) =>
          x.id !== id &&
          x.show === t.show &&
          versionOf(x.name).stem === stem &&
          versionOf(x.name).version < version &&
          alike(x, t),
      )
      .sort((a, b) => versionOf(b.name).version - versionOf(a.name).version)[0]
    return older ? { against: older.name, changes: compareVersions(older.model, t.model) } : null
  }

  /**
   * Gives a timeline the cuts, markers and chapters of a list; WebVTT brings chapters only. Its regions stay, and
   * markers it has already are not doubled.
   */
  async attachCuts(id: string, cuts: FilePath): Promise<SplitTimeline> {
    const t = await this.get(id)
    const file = path.basename(cuts.path)
    const chapters = isChapterFile(cuts.path)
      ? readInterchange((await readListText(this.roots, cuts)).text, file, t.model.rate)
      : null
    if (!chapters && t.linking)
      fail(
        'timeline.many-sources',
        'This timeline has its cuts already.',
        t.name,
        'Bring in the newer list as a new version.',
      )
    const { model, problems } = chapters
      ? {
          model: { ...t.model, markers: [...t.model.markers, ...chapters.timeline.markers] },
          problems: [...t.problems, ...chapters.problems],
        }
      : await flattenedWithCuts(this.roots, t.info, t.file, t.name, cuts)
    await this.db
      .updateTable('timeline')
      .set(timelineColumns({ model, problems, ...(chapters ? {} : { cuts, cutsOffset: 0 }) }))
      .where('id', '=', id)
      .execute()
    const fresh = firstSplit(model).markers.filter(
      (m) => !t.split.markers.some((x) => x.at === m.at && x.name === m.name),
    )
    if (fresh.length) await this.saveSplit(id, { ...t.split, markers: [...t.split.markers, ...fresh] }, t.splitVersion)
    await noteChange(this.db, 'timelines', id)
    return this.get(id)
  }

  /** Looks for what earlier editions did not ask of a timeline's media. */
  async complete(t: SplitTimeline): Promise<void> {
    const asKept = () => this.db.selectFrom('timeline').select(['info', 'linking']).where('id', '=', t.id)
    const before = await asKept().executeTakeFirst()
    const described = before && (await completed(this.roots, t))
    if (!described) return
    const now = { ...described, ...(await this.linkedAnew(t, described)) }
    // opening media takes long: what was linked or set anew meanwhile stays
    const done = await this.db
      .updateTable('timeline')
      .set(timelineColumns(now))
      .where('id', '=', t.id)
      .where('info', '=', before.info)
      .where('linking', 'is', before.linking)
      .executeTakeFirst()
    if (done.numUpdatedRows === 0n) return
    await noteChange(this.db, 'timelines', t.id)
    if (t.linking) await this.analyse(await this.get(t.id))
  }

  /** A list put together as this edition does, of the files that it knows; null where not all of them are there. */
  private async linkedAnew(t: SplitTimeline, { info }: Partial<Pick<SplitTimeline, 'info'>>): Promise<Linked | null> {
    return t.linking && info?.edition === describedEdition ? linkedAgain(this.index, t, t.linking) : null
  }

  /** Which pictures of a timeline are which of an older one, or how far looking for them is. */
  likeness(older: SplitTimeline, t: SplitTimeline, again = false): Promise<Likeness> {
    return likenessOf(this.db, this.queue, [older, t], again)
  }

  /** Asks the workers for what is not known yet about a timeline's media. */
  async analyse(t: SplitTimeline): Promise<void> {
    await askForAnalysis(this.db, this.queue, t, this.analysing)
  }

  /** Keeps a split. `version` is the one it was made from; a newer one on the server wins and is a problem. */
  async saveSplit(id: string, split: Split, version: number): Promise<number> {
    const r = await this.db
      .updateTable('timeline')
      .set(timelineColumns({ split, splitVersion: version + 1 }))
      .where('id', '=', id)
      .where('split_version', '=', version)
      .executeTakeFirst()
    if (r.numUpdatedRows === 0n) movedOn()
    await noteChange(this.db, 'split', id)
    return version + 1
  }

  /** Keeps what changed of a split, made from a version of it; the same patch again is taken as kept. */
  async patchSplit(id: string, patch: Patch, version: number): Promise<number> {
    const t = await this.get(id)
    const split = applyPatch(t.split, patch)
    if (t.splitVersion === version + 1 && sameSplit(split, t.split)) return t.splitVersion
    return this.saveSplit(id, split, version)
  }

  /** Has a timeline that does not know its rate run at another; see {@link atRate} for what becomes of regions. */
  async setRate(id: string, rate: Rate): Promise<void> {
    const t = await this.get(id)
    const changed = await atRate(this.roots, this.index, t, rate)
    // regions that were changed meanwhile are not put back
    const r = await this.db
      .updateTable('timeline')
      .set(timelineColumns(changed.split ? { ...changed, splitVersion: t.splitVersion + 1 } : changed))
      .where('id', '=', id)
      .where('split_version', '=', t.splitVersion)
      .executeTakeFirst()
    if (r.numUpdatedRows === 0n) movedOn()
    await noteChange(this.db, 'timelines', id)
    await this.analyse(await this.get(id))
  }

  /** Has the pictures of a flattened timeline taken for what a person says, or (null) for what its file says. */
  async setScan(id: string, scan: Scan | null): Promise<void> {
    const info = await infoTakenAs(this.roots, await this.get(id), scan)
    await this.db.updateTable('timeline').set(timelineColumns({ info })).where('id', '=', id).execute()
    await noteChange(this.db, 'timelines', id)
  }

  /** Has the sound tracks of a list read another way; regions stay where they are. */
  async setSoundTracks(id: string, soundTracks: SoundTracks): Promise<void> {
    const t = await this.get(id)
    const changed = await readingTracks(this.index, t, soundTracks)
    await this.db.updateTable('timeline').set(timelineColumns(changed)).where('id', '=', id).execute()
    await noteChange(this.db, 'timelines', id)
    await this.analyse(await this.get(id))
  }

  /** Gives the first frame of a timeline another label; frames, regions and markers stay where they are. */
  async setStart(id: string, label: string): Promise<void> {
    const changed = startingAt(await this.get(id), label)
    await this.db.updateTable('timeline').set(timelineColumns(changed)).where('id', '=', id).execute()
    await noteChange(this.db, 'timelines', id)
  }

  /** Moves all cuts and markers of a list to `offset` frames after where it has them; regions stay. */
  async setCutsOffset(id: string, offset: Frames): Promise<void> {
    const t = await this.get(id)
    if (t.linking)
      fail(
        'timeline.many-sources',
        'The cuts of this timeline make its pictures; they cannot be moved against them.',
        t.name,
      )
    const by = offset - t.cutsOffset
    if (by === 0) return
    const whole = { in: 0, out: t.model.length }
    const events = t.model.events
      .map((e) => trimEvent({ ...e, record: { in: e.record.in + by, out: e.record.out + by } }, whole))
      .filter((e) => e !== null)
    const markers = t.model.markers
      .map((m) => ({ ...m, at: m.at + by }))
      .filter((m) => m.at >= 0 && m.at < t.model.length)
    await this.db
      .updateTable('timeline')
      .set(timelineColumns({ model: { ...t.model, events, markers }, cutsOffset: offset }))
      .where('id', '=', id)
      .execute()
    await noteChange(this.db, 'timelines', id)
  }

  async rename(id: string, name: string): Promise<void> {
    const t = await this.get(id)
    await this.db
      .updateTable('timeline')
      .set(timelineColumns({ name, model: { ...t.model, name } }))
      .where('id', '=', id)
      .execute()
    await noteChange(this.db, 'timelines', id)
  }

  /** Forgets a timeline and its split; media files stay where they are. */
  async remove(id: string): Promise<void> {
    await this.get(id)
    await this.db.deleteFrom('timeline').where('id', '=', id).execute()
    await noteChange(this.db, 'timelines', id)
  }

  /** What is wrong with a timeline's media right now: gone, replaced, or not what was sent. */
  async mediaProblem(t: SplitTimeline): Promise<Problem | null> {
    if (t.linking) return null
    return this.media.now({ ...t.file, fingerprint: t.fingerprint })
  }

  /** The sources of a timeline of many, with those marked that are gone or replaced since. */
  async sources(t: SplitTimeline): Promise<Source[]> {
    if (!t.linking) return []
    const { assembly, sources } = t.linking
    const lists = new Map<string, SumLists>()
    const problems = await Promise.all(assembly.sources.map((s) => this.media.now(s, lists)))
    if (problems.every((p) => p === null)) return [...sources]
    const links = linksBySource(t.model, assembly.links)
    return sources.map((s) => {
      const now = grouped(links.get(s.key) ?? [], ({ source }) => problems[source])
      const lost = [...now].flatMap(([problem, uses]): SourceTrouble[] => {
        if (!problem) return []
        const state = replacing.has(problem.code) ? 'replaced' : 'missing'
        return [{ state, problem, events: uses.map((u) => u.event) }]
      })
      return lost.length ? troubled(s, [...lost, ...troublesIn(s)]) : s
    })
  }
}
