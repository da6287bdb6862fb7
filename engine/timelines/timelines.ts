import { readable } from '../store/damage'
import { randomUUID } from 'node:crypto'
import { readFile, stat } from 'node:fs/promises'
import path from 'node:path'
import { isChapterFile, isTimelineFile } from '../../core/files/kinds'
import type { MediaInfo } from '../../core/media/media'
import { decodeText } from '../../core/text'
import { fail, type Problem } from '../../core/problem'
import type { FilePath } from '../../core/media/filepath'
import { applyPatch, type Patch } from '../../core/split/patch'
import { sameSplit, type Split } from '../../core/split/region'
import { rangesBy } from '../../core/split/makers/registry'
import type { SplitTimeline } from '../../core/split/timeline'
import { compareVersions, type Change } from '../../core/timeline/versions'
import { readInterchange } from '../../core/timeline/formats/registry'
import type { LinkChoices, Source } from '../../core/timeline/link'
import { trimEvent, type Timeline } from '../../core/timeline/model'
import { pieces } from '../../core/time/range'
import { rateLabel, rates, rateText, sameRate, type Frames, type Rate } from '../../core/time/rate'
import type { Queue } from '../queue/port'
import { changesAfter, lastChange, noteChange, type Topic } from '../store/changes'
import type { Db, TimelineRow } from '../store/database'
import { factKeys, readFacts, writeFact } from '../store/facts'
import { timelineColumns, timelineOf, withSplit } from '../store/timelines'
import { isRun, runAtRate } from '../storage/fileset'
import { openMediaFile } from '../storage/mediafile'
import { flattenedTimeline } from './flattened'
import { linkMedia, readAndLink } from './linking'
import { MediaIndex } from './mediaindex'
import { fileProblem } from './mediastate'
import { freeName, versionOf } from './naming'
import { segmentLength } from '../storage/framestore'
import type { Roots } from '../storage/roots'
import type { SourceRef } from '../worker/source'
import { fingerprintOf } from '../storage/fingerprint'
import { backgroundOffer } from '../worker/background'

/** Where steps read a timeline's pictures and sound. */
export function sourceOf(t: Pick<SplitTimeline, 'file' | 'fingerprint' | 'linking'>): SourceRef {
  return { ...t.file, fingerprint: t.fingerprint, assembly: t.linking?.assembly ?? null }
}

const largestList = 64 << 20

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

/** Brings in timelines and keeps their splits. */
export class Timelines {
  private readonly index: MediaIndex
  /** What was listed last, and the change it was listed after. */
  private listed: { readonly at: number; readonly all: SplitTimeline[] } = { at: -1, all: [] }

  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly queue: Queue,
    private readonly analysing = true,
  ) {
    this.index = new MediaIndex(roots)
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
  async bringIn(
    place: FilePath,
    options: { readonly cuts?: FilePath; readonly show?: string; readonly name?: string; readonly rate?: Rate } = {},
  ): Promise<SplitTimeline> {
    return isTimelineFile(place.path) ? this.bringInList(place, options) : this.bringInMedia(place, options)
  }

  private async bringInMedia(
    media: FilePath,
    options: { readonly cuts?: FilePath; readonly show?: string; readonly name?: string },
  ): Promise<SplitTimeline> {
    const file = this.roots.resolve(media.root, media.path)
    const opened = await openMediaFile(file, media.path)
    await opened.close()
    const info = opened.info
    if (!info.video[0])
      fail(
        'timeline.no-pictures',
        'There are no pictures in this file, so there is nothing to lay out as a timeline.',
        media.path,
        'Choose the file that has the pictures; sound files are for checking.',
      )
    const fingerprint = await fingerprintOf(file)
    const { name, show } = await freeName(
      this.db,
      media,
      options.name ?? path.basename(media.path, path.extname(media.path)),
      options.show,
      fingerprint,
    )
    const { model, problems } = await this.understand(info, media, name, options.cuts ?? null)
    return this.keep({
      show,
      name,
      file: media,
      cuts: options.cuts ?? null,
      cutsOffset: 0,
      fingerprint,
      info,
      model,
      problems,
      linking: null,
    })
  }

  private async bringInList(
    place: FilePath,
    options: { readonly show?: string; readonly name?: string; readonly rate?: Rate },
  ): Promise<SplitTimeline> {
    const { text, problems } = await this.readText(place)
    const file = path.basename(place.path)
    const { read, link } = await readAndLink(this.roots, this.index, text, file, options.rate ?? null)
    if (read.timeline.events.length === 0)
      fail(
        read.problems[0]?.code ?? 'timeline.empty',
        read.problems[0]?.message ?? 'There are no events in this file.',
        read.problems[0]?.where ?? file,
        'Bring in the timeline itself; lists of chapters go with a timeline that is here already.',
      )
    const { name, show } = await freeName(
      this.db,
      place,
      options.name ?? path.basename(place.path, path.extname(place.path)),
      options.show,
      link.fingerprint,
    )
    return this.keep({
      show,
      name,
      file: place,
      cuts: null,
      cutsOffset: 0,
      model: { ...read.timeline, name },
      problems: [...problems, ...read.problems],
      ...link,
    })
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
    const link = await linkMedia(this.roots, this.index, t.model, path.basename(t.file.path), {
      files: { ...before.files, ...choose.files },
      folders,
    })
    await this.db.updateTable('timeline').set(timelineColumns(link)).where('id', '=', id).execute()
    await noteChange(this.db, 'timelines', id)
    const now = await this.get(id)
    await this.analyse(now)
    return now
  }

  private async keep(t: Omit<SplitTimeline, 'id' | 'split' | 'splitVersion'>): Promise<SplitTimeline> {
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
          x.id !== id && x.show === t.show && versionOf(x.name).stem === stem && versionOf(x.name).version < version,
      )
      .sort((a, b) => versionOf(b.name).version - versionOf(a.name).version)[0]
    return older ? { against: older.name, changes: compareVersions(older.model, t.model) } : null
  }

  private async understand(info: MediaInfo, media: FilePath, name: string, cuts: FilePath | null) {
    const list = cuts && { ...(await this.readText(cuts)), path: cuts.path }
    const { model, problems } = flattenedTimeline(info, media.path, name, list)
    return { model, problems: [...problems, ...(list?.problems ?? [])] }
  }

  private async readText(place: FilePath): Promise<{ text: string; problems: Problem[] }> {
    const file = this.roots.resolve(place.root, place.path)
    if ((await stat(file)).size > largestList)
      fail(
        'edl.too-large',
        'This is far larger than any edit decision list.',
        place.path,
        'Choose the list, not the media.',
      )
    const { text, legacy } = decodeText(await readFile(file))
    const said: Problem = {
      code: 'text.encoding',
      message: 'The text is not UTF-8; its names are read as Windows-1252.',
      where: place.path,
      fix: 'Check names with accents, or write the list again as UTF-8.',
    }
    return { text, problems: legacy ? [said] : [] }
  }

  /**
   * Gives a timeline the cuts, markers and chapters of a list; WebVTT brings chapters only. Its regions stay, and
   * markers it has already are not doubled.
   */
  async attachCuts(id: string, cuts: FilePath): Promise<SplitTimeline> {
    const t = await this.get(id)
    const file = path.basename(cuts.path)
    const chapters = isChapterFile(cuts.path)
      ? readInterchange((await this.readText(cuts)).text, file, t.model.rate)
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
      : await this.understand(t.info, t.file, t.name, cuts)
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

  /** Queues what is not known yet about a timeline's media. */
  async analyse(t: SplitTimeline): Promise<void> {
    if (t.linking) await writeFact(this.db, factKeys.assembly(t.fingerprint), t.linking.assembly)
    if (!this.analysing) return
    const frames = t.model.length
    const source = { ...t.file, fingerprint: t.fingerprint, ...(t.linking ? { assembled: true } : {}) }
    const [pictures, sound] = [factKeys.pictures(t.fingerprint), factKeys.sound(t.fingerprint)]
    const known = await readFacts(this.db, [pictures, sound])
    await this.sumMedia(t)
    if (!known.has(sound)) await this.queue.offer([backgroundOffer('analyse-sound', { fact: sound, source }, frames)])
    if (known.has(pictures)) return
    const segments = pieces({ in: 0, out: frames }, segmentLength).map((range, k) => ({
      range,
      key: factKeys.segment(t.fingerprint, k),
    }))
    const done = await readFacts(
      this.db,
      segments.map((s) => s.key),
    )
    // a pass that was broken off goes on where it was; a merge that was lost is asked for again by its last segment
    const missing = segments.filter(
      (s, i) => !done.has(s.key) || (done.size === segments.length && i === segments.length - 1),
    )
    await this.queue.offer(
      missing.map(({ key, range }) =>
        backgroundOffer('analyse-segment', { fact: key, source, range, frames }, range.out - range.in, true),
      ),
    )
  }

  /** Asks for the sums of media that are not known yet, to tell it from others later. */
  private async sumMedia(t: SplitTimeline): Promise<void> {
    const files = t.linking ? t.linking.assembly.sources : [{ ...t.file, fingerprint: t.fingerprint }]
    const keys = files.map((f) => factKeys.sum(f.fingerprint))
    const known = await readFacts(this.db, keys)
    const missing = files.filter((_, i) => !known.has(keys[i]!) && keys.indexOf(keys[i]!) === i)
    await this.queue.offer(
      missing.map(({ root, path: file, fingerprint }) =>
        backgroundOffer(
          'sum-media',
          { fact: factKeys.sum(fingerprint), source: { root, path: file, fingerprint } },
          1,
          true,
        ),
      ),
    )
  }

  /** Keeps a split. `version` is the one it was made from; a newer one on the server wins and is a problem. */
  async saveSplit(id: string, split: Split, version: number): Promise<number> {
    const r = await this.db
      .updateTable('timeline')
      .set(timelineColumns({ split, splitVersion: version + 1 }))
      .where('id', '=', id)
      .where('split_version', '=', version)
      .executeTakeFirst()
    if (r.numUpdatedRows === 0n)
      fail(
        'split.moved-on',
        'This split was changed in another window in the meantime.',
        undefined,
        'The newer state is shown; make your last change again.',
      )
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

  /** Has stills run at another rate than was taken for them; frames, regions and markers stay what they are. */
  async setRate(id: string, rate: Rate): Promise<void> {
    const t = await this.get(id)
    if (t.linking || !isRun(t.file.path))
      fail(
        'timeline.own-rate',
        'The rate of this timeline is that of its media.',
        t.name,
        'Only stills can be given a rate.',
      )
    if (!rates.some((r) => sameRate(r, rate)))
      fail(
        'timeline.rate',
        `Stills do not run at ${rateText(rate)} frames a second here.`,
        t.name,
        `Choose one of ${rates.map(rateLabel).join(', ')}.`,
      )
    const place = { ...t.file, path: runAtRate(t.file.path, rate) }
    const file = this.roots.resolve(place.root, place.path)
    const opened = await openMediaFile(file, place.path)
    await opened.close()
    const { model, problems } = await this.understand(opened.info, place, t.name, t.cuts)
    await this.db
      .updateTable('timeline')
      .set(
        timelineColumns({
          file: place,
          fingerprint: await fingerprintOf(file),
          info: opened.info,
          model: { ...model, markers: t.model.markers },
          problems,
        }),
      )
      .where('id', '=', id)
      .execute()
    await noteChange(this.db, 'timelines', id)
    await this.analyse(await this.get(id))
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

  /** What is wrong with a timeline's media right now: gone, or replaced. */
  async mediaProblem(t: SplitTimeline): Promise<Problem | null> {
    if (t.linking) return null
    return fileProblem(this.roots, { ...t.file, fingerprint: t.fingerprint })
  }

  /** The sources of a timeline of many, with those marked that are gone or replaced since. */
  async sources(t: SplitTimeline): Promise<Source[]> {
    if (!t.linking) return []
    const { assembly, sources } = t.linking
    const problems = await Promise.all(assembly.sources.map((s) => fileProblem(this.roots, s)))
    return sources.map((s) => {
      const i = s.linked
        ? assembly.sources.findIndex((x) => x.root === s.linked!.root && x.path === s.linked!.path)
        : -1
      const problem = problems[i]
      return problem ? { ...s, state: problem.code === 'media.replaced' ? 'replaced' : 'missing', problem } : s
    })
  }
}
