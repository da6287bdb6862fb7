import path from 'node:path'
import { summaryOf, type Became, type DeliverableSummary } from '../../contract/deliverables'
import { unitsTogether, type SourceUnits, type UnitFacts } from '../../core/codec/unitfacts'
import type { PictureFacts } from '../../core/analysis/pictures'
import type { RegionSound } from '../../core/analysis/soundstretches'
import { DraftMemo, takenFrom, type Draft, type Situation } from '../../core/deliverable/draft'
import { filesUsed, unitsUsed, type JudgedDraft, type Known, type MediaUsed } from '../../core/deliverable/judged'
import { expandPattern, unusable } from '../../core/deliverable/names'
import { lineageOf, supersededOf } from '../../core/deliverable/lineage'
import { keyText, type DeliverableKey } from '../../core/deliverable/outlet'
import { collisions, freePath, versioned } from '../../core/deliverable/versions'
import type { Paces } from '../../core/job/paces'
import { endsOf, entryOf, isRun } from '../../core/files/fileset'
import type { Problem } from '../../core/problem'
import { fileNameOf, recipeKind } from '../../core/recipe/registry'
import { isTrial, trialFolder } from '../../core/recipe/trial'
import { pauseOf, timelineRanges } from '../../core/lineup/lineup'
import { workFrames } from '../../core/time/samples'
import type { Queue } from '../queue/port'
import type { MediaHealth } from '../timelines/mediahealth'
import type { Roots } from '../storage/roots'
import type { Db } from '../store/database'
import { changesAfter, lastChange } from '../store/changes'
import { DeliveredFiles, problemOf } from '../store/deliverables'
import { factKeys, readFacts } from '../store/facts'
import { backgroundOffer } from '../worker/background'
import { Delivery, type KnownBy } from './delivery'

/** Facts of regions that are kept in memory, so that an edit of one region reads those of no other. */
const keptFacts = 40_000

/** A draft's name as its pattern gives it on a day; which version is free is asked of the disk every time. */
interface Name {
  readonly day: string
  readonly first: string
  /** Why the first cannot be used; null when it can. */
  readonly bad: string | null
  readonly make: (version: number) => string
}

interface Target {
  readonly path: string
  readonly version: number
  readonly bad: string | null
}

/** Of a storage root: the room on it and what all that goes there needs; what is wrong when it cannot be used. */
interface Disk {
  readonly room: Known['room']
  readonly away: Problem | null
  readonly readOnly: Problem | null
}
type Disks = ReadonlyMap<string, Disk>

/** Keys of the facts that a draft is judged by. */
interface Keys {
  readonly sound: string
  readonly pictures: string
  readonly units: readonly string[]
}

/** What follows from drafts alone, worked out once for each list of them and each day. */
interface Worked {
  readonly drafts: readonly Draft[]
  readonly day: string
  readonly keys: readonly Keys[]
  /** Facts that are asked for, by their keys; null of those of media, which were asked for when it was brought in. */
  readonly wanted: ReadonlyMap<string, Missing | null>
  readonly names: readonly Name[]
  /** Why another one's name stands in the way, by position. */
  readonly doubled: ReadonlyMap<number, string>
  /** Keys of those that a newer version of goes to the same outlet. */
  readonly superseded: ReadonlySet<string>
  /** Bytes that go to each root; none where one is only read. */
  readonly needed: ReadonlyMap<string, number>
}

/** What a draft was judged by, and what came of it, as lists show it. */
interface Kept {
  readonly by: By
  /** Null while nothing was delivered. */
  readonly knownBy: KnownBy | null
  readonly summary: DeliverableSummary
}

/** What a judgement follows from; how much room is left changes with every edit, whether it is enough, seldom. */
interface By {
  readonly sound: Known['sound']
  readonly pictures: Known['pictures']
  readonly units: Known['units']
  readonly path: string
  readonly version: number
  readonly bad: string | null
  readonly enough: boolean | null
  readonly away: string | undefined
  readonly media: string | undefined
  readonly awaited: boolean
  readonly paces: Paces
}

const byKeys = [
  'sound',
  'pictures',
  'units',
  'path',
  'version',
  'bad',
  'enough',
  'away',
  'media',
  'awaited',
  'paces',
] as const

/** Works out deliverables before they are frozen: names, measures and verdicts. What did not change is kept. */
export class Deliverables {
  private readonly facts = new Map<string, unknown>()
  private missing = new Map<string, Missing | null>()
  private failed = new Map<string, Problem>()
  private factsAt = -1
  private readonly memo = new DraftMemo()
  private worked: Worked | null = null
  private readonly kept = new WeakMap<Draft, Kept>()
  private readonly named = new WeakMap<Draft, Name>()
  private readonly made = new WeakMap<Draft, readonly MediaUsed[]>()
  private readonly keyed = new WeakMap<Draft, Keys>()
  /** What is said by the pictures of several files together, by the keys of its facts. */
  private readonly together = new Map<string, SourceUnits>()

  private readonly handed: DeliveredFiles

  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly queue: Queue,
    private readonly media: Pick<MediaHealth, 'of' | 'awaits'>,
  ) {
    this.handed = new DeliveredFiles(db)
  }

  /** Judges all of a situation; regions that have not been measured yet are queued for the workers. */
  async workOut(situation: Situation, today = new Date()): Promise<JudgedDraft[]> {
    const delivered = await this.delivery()
    return (await this.drafts(situation, today)).map(({ draft, known }) => delivered.judge(draft, known).judged)
  }

  /** All of a situation by its keys, as lists show it. What did not change since the last call is the same object. */
  async summaries(situation: Situation, today = new Date()): Promise<Map<string, DeliverableSummary>> {
    const out = new Map<string, DeliverableSummary>()
    const delivered = await this.delivery()
    const lineage = lineageOf(situation.timelines)
    const drafts = await this.drafts(situation, today)
    const alike = new Map<string, number>()
    for (const { draft } of drafts) alike.set(alikeAs(draft), (alike.get(alikeAs(draft)) ?? 0) + 1)
    for (const { draft, known } of drafts) {
      const key = keyText(draft.key)
      const by = byOf(known)
      const before = this.kept.get(draft)
      const last = delivered.last(lineage(draft.key))
      const several = alike.get(alikeAs(draft))! > 1
      const same =
        before &&
        byKeys.every((k) => by[k] === before.by[k]) &&
        ((delivered.size === 0 && !several) || before.knownBy !== null) &&
        delivered.earlier(before.knownBy)?.id === before.summary.earlier?.id
      let kept = same ? before : judgedAnew(by, draft, delivered.judge(draft, known, several))
      const became = delivered.became(kept.knownBy, last)
      if (!sameFile(became, kept.summary.became)) kept = { ...kept, summary: { ...kept.summary, became } }
      const superseded = this.worked!.superseded.has(key)
      if (superseded !== kept.summary.superseded) kept = { ...kept, summary: { ...kept.summary, superseded } }
      if (kept !== before) this.kept.set(draft, kept)
      out.set(key, kept.summary)
    }
    return out
  }

  /** What was delivered and is still there. */
  async delivery(): Promise<Delivery> {
    const isThere = this.roots.glance()
    const landmarks = (p: string) => (isRun(p) ? endsOf(p) : [p])
    return new Delivery((await this.handed.all()).filter((f) => landmarks(f.path).every((p) => isThere(f.root, p))))
  }

  /** Keys of those that a newer version of goes to the same outlet, of the situation that was worked out last. */
  get superseded(): ReadonlySet<string> {
    return this.worked?.superseded ?? new Set()
  }

  /** One deliverable, judged with all figures as they are this moment; null when it is not there. */
  async one(situation: Situation, key: DeliverableKey): Promise<JudgedDraft | null> {
    const text = keyText(key)
    for (const { draft, known } of await this.drafts(situation))
      if (keyText(draft.key) === text) return (await this.delivery()).judge(draft, known).judged
    return null
  }

  /** Every draft of a situation with what is known around it. */
  async drafts(situation: Situation, today = new Date()): Promise<{ draft: Draft; known: Known }[]> {
    const worked = this.workedOf(situation, today)
    await this.loadFacts(worked)
    const disks = await this.disks(worked)
    const targets = this.targets(worked)
    return worked.drafts.map((draft, i) => ({
      draft,
      known: this.known(worked, i, targets[i]!, disks, situation.paces),
    }))
  }

  private workedOf(situation: Situation, today: Date): Worked {
    const drafts = this.memo.drafts(situation)
    const day = today.toDateString()
    if (this.worked?.drafts === drafts && this.worked.day === day) return this.worked
    const names = drafts.map((d) => this.nameOf(d, today, day))
    const keys = drafts.map((d) => this.keysOf(d))
    const wanted = new Map<string, Missing | null>()
    const needed = new Map<string, number>()
    drafts.forEach((draft, i) => {
      const { sound, pictures, units } = keys[i]!
      const { outlet, output, timeline } = draft
      if (output.audio) wanted.set(sound, { kind: 'measure-sound', key: sound, draft })
      if (output.video) wanted.set(pictures, { kind: 'measure-pictures', key: pictures, draft })
      for (const key of units) wanted.set(key, null)
      needed.set(outlet.root, (needed.get(outlet.root) ?? 0) + output.bytes)
      needed.set(timeline.file.root, needed.get(timeline.file.root) ?? 0)
    })
    const superseded = supersededOf(
      drafts.map((d) => d.key),
      lineageOf(situation.timelines),
    )
    const doubled = doubledOf(drafts, names, superseded)
    return (this.worked = { drafts, day, keys, wanted, names, doubled, superseded, needed })
  }

  private keysOf(d: Draft): Keys {
    const keys = this.keyed.get(d) ?? { sound: soundKey(d), pictures: picturesKey(d), units: unitsKeys(d) }
    this.keyed.set(d, keys)
    return keys
  }

  private known({ drafts, keys }: Worked, i: number, name: Target, disks: Disks, paces: Paces): Known {
    const d = drafts[i]!
    const { sound, pictures, units } = keys[i]!
    const target = disks.get(d.outlet.root)!
    const fact = (key: string) => this.facts.get(key) ?? this.failed.get(key) ?? null
    const disk = target.away ?? target.readOnly ?? disks.get(d.timeline.file.root)!.away
    // of a disk that is away nothing more needs to be said
    const wrong = disk
      ? undefined
      : this.mediaOf(d)
          .map((f) => this.media.of(f))
          .find((p) => p !== null)
    return {
      sound: fact(sound) as RegionSound | Problem | null,
      pictures: fact(pictures) as PictureFacts | Problem | null,
      units: this.unitsOf(units),
      target: name,
      room: target.room,
      paces,
      disk,
      media: wrong ? { ...wrong, message: `${wrong.where ?? 'Its media'}: ${wrong.message}` } : null,
      awaited: !disk && this.mediaOf(d).some((f) => this.media.awaits(f)),
    }
  }

  /** What coded pictures say, by the keys of the facts of their files; null while one is not known. */
  private unitsOf(keys: readonly string[]): Known['units'] {
    const unknown = keys.filter((k) => !this.facts.has(k))
    if (unknown.length) return unknown.map((k) => this.failed.get(k)).find((p) => p !== undefined) ?? null
    const of = keys.join()
    const known = this.together.get(of) ?? unitsTogether(keys.map((k) => this.facts.get(k) as UnitFacts | null))
    this.together.set(of, known)
    return known
  }

  /** The files that a draft is made from. */
  private mediaOf(d: Draft): readonly MediaUsed[] {
    const files = this.made.get(d) ?? filesUsed(d)
    this.made.set(d, files)
    return files
  }

  /** Reads facts that are not in memory; asks the workers for those that are not there at all. */
  private async loadFacts({ wanted }: Worked): Promise<void> {
    const changes = this.factsAt < 0 ? null : await changesAfter(this.db, this.factsAt)
    this.factsAt = changes ? (changes.at(-1)?.id ?? this.factsAt) : await lastChange(this.db)
    const come = changes?.filter((c) => c.topic === 'facts').map((c) => c.key)
    const fresh = new Set(come)
    const unknown = [...wanted.keys()].filter((k) => !this.facts.has(k))
    const unread = unknown.filter((k) => !come || fresh.has(k) || !this.missing.has(k))
    for (const [key, value] of await readFacts(this.db, unread)) this.facts.set(key, value)
    // those that no region asks for any more go first, when there are too many
    if (this.facts.size > keptFacts) for (const key of this.facts.keys()) if (!wanted.has(key)) this.facts.delete(key)
    const missing = new Map(unknown.filter((k) => !this.facts.has(k)).map((k) => [k, wanted.get(k)!]))
    const as = [...missing.keys()].every((k) => this.missing.has(k)) && missing.size === this.missing.size
    this.missing = missing
    if (!as || !come || come.length > 0) this.failed = await this.queueMissing(missing)
  }

  /** What can be said of the disks that drafts read and write. */
  private async disks({ needed }: Worked): Promise<Disks> {
    const out = new Map<string, Disk>()
    for (const [root, bytes] of needed) {
      const free = await this.roots.free(root).catch(() => null)
      const room = free === null ? null : { free, needed: bytes }
      const away = this.roots.lost(root)
      out.set(root, { room, away, readOnly: away ? null : await this.roots.readOnly(root) })
    }
    return out
  }

  /** The name of each draft and the version that is free, and what is wrong with it. */
  private targets({ drafts, names, doubled }: Worked): Target[] {
    const isThere = this.roots.glance()
    return names.map(({ first, bad, make }, i) => {
      if (bad) return { path: first, version: 1, bad }
      const free = freePath(make, (p) => isThere(drafts[i]!.outlet.root, entryOf(p)))
      return { ...free, bad: (free.version > 1 ? unusable(free.path) : null) ?? doubled.get(i) ?? null }
    })
  }

  private nameOf(d: Draft, today: Date, day: string): Name {
    const kept = this.named.get(d)
    if (kept?.day === day) return kept
    const folder = path.posix.join(d.outlet.folder.replace(/\/+$/, ''), isTrial(d.recipe) ? trialFolder : '')
    const { file } = d.timeline
    const context = {
      show: d.timeline.show,
      timeline: d.timeline.model,
      region: d.region,
      number: d.number,
      outlet: d.outlet.name,
      output: d.output,
      source: path.basename(file.path, path.extname(file.path)),
      taken: () => takenFrom(d.timeline, d.region.in + d.handles.before),
      today,
    }
    const made = new Map<number, string>()
    const pathOf = versioned((version) =>
      path.posix.join(folder, expandPattern(d.outlet.pattern, { ...context, version })),
    )
    const make = (version: number) => {
      const known = made.get(version)
      if (known !== undefined) return known
      const name = fileNameOf(d.recipe, pathOf(version), d.output)
      made.set(version, name)
      return name
    }
    const first = make(1)
    // a name of one file may not be read as that of many
    const many = isRun(first) && !recipeKind(d.recipe).fileName ? 'it reads like the name of a run of stills' : null
    const name = { day, first, bad: unusable(first) ?? many, make }
    this.named.set(d, name)
    return name
  }

  /**
   * Queues what is to be measured; gives what could not be, by its key. Regions are read from what the pass keeps:
   * while it is under way they wait for it. Sound of a timeline that no pass is made of is measured by itself.
   */
  private async queueMissing(wanted: ReadonlyMap<string, Missing | null>): Promise<Map<string, Problem>> {
    if (wanted.size === 0) return new Map()
    const missing = [...wanted.values()].flatMap((m) => m ?? [])
    const queued = await this.db
      .selectFrom('step')
      .select(['id', 'key', 'kind', 'state', 'problem'])
      .where('run_id', 'is', null)
      .where('kind', 'in', [...measuring, 'analyse-sound', 'read-units'])
      .execute()
    const there = new Set(queued.filter((q) => q.state !== 'done').map((q) => q.key))
    // edges that moved on since leave regions behind that nobody asks for any more
    const stale = queued.filter((q) => q.state === 'ready' && measuring.includes(q.kind) && !wanted.has(q.key))
    for (const { id } of stale)
      await this.db.deleteFrom('step').where('id', '=', id).where('state', '=', 'ready').execute()
    const passes = [...new Set(missing.map((m) => factKeys.pictures(m.draft.timeline.fingerprint)))]
    const seen = await readFacts(this.db, passes)
    const underWay = (q: (typeof queued)[number]) => q.state === 'ready' || q.state === 'claimed'
    const hearing = new Set(queued.filter((q) => q.kind === 'analyse-sound' && underWay(q)).map((q) => q.key))
    const waits = ({ kind, draft }: Missing) =>
      kind === 'measure-sound'
        ? hearing.has(factKeys.sound(draft.timeline.fingerprint))
        : !seen.has(factKeys.pictures(draft.timeline.fingerprint))
    const offers = missing.filter((m) => !there.has(m.key) && !waits(m)).map(offerOf)
    if (offers.length) await this.queue.offer(offers)
    const failures = queued.filter((q) => q.state === 'failed' && q.problem && wanted.has(q.key))
    return new Map(failures.map((q) => [q.key, unmeasured(q.kind, problemOf(q)!)]))
  }
}

function byOf({ sound, pictures, units, target, room, paces, disk, media, awaited }: Known): By {
  const { path: file, version, bad } = target
  const enough = room && room.free >= room.needed
  const [away, wrong] = [disk?.message, media?.message]
  return { sound, pictures, units, path: file, version, bad, enough, away, media: wrong, awaited, paces }
}

function judgedAnew(by: By, draft: Draft, { judged, by: knownBy, takenIn }: ReturnType<Delivery['judge']>): Kept {
  const sum = knownBy?.pictures ?? null
  return { by, knownBy, summary: { ...summaryOf(judged), codes: sum === null ? null : { sum, takenIn } } }
}

/** What those have in common whose pictures may be coded alike: only of them it is worked out. */
const alikeAs = ({ key, recipe }: Draft) => `${key.timelineId}/${key.regionId} ${recipe.kind}`

const sameFile = (a: Became | null, b: Became | null) =>
  a === b || (a !== null && b !== null && a.id === b.id && a.changed.join() === b.changed.join())

function doubledOf(
  drafts: readonly Draft[],
  names: readonly Name[],
  superseded: ReadonlySet<string>,
): Map<number, string> {
  const out = new Map<number, string>()
  for (const list of collisions(names.map((n, i) => `${drafts[i]!.outlet.root}:${entryOf(n.first)}`)).values())
    for (const i of list) {
      const isOlder = (k: number) => superseded.has(keyText(drafts[k]!.key))
      // what a newer version stands in for stays back; it does not keep that from its name
      const other = drafts[list.find((k) => k !== i && !isOlder(k)) ?? -1]
      if (!other && !isOlder(i)) continue
      out.set(
        i,
        other
          ? `“${other.region.name}” for ${other.outlet.name} would get the same name`
          : 'a newer version of it would get the same name',
      )
    }
  return out
}

/** Measures of regions. */
const measuring: readonly string[] = ['measure-sound', 'measure-pictures'] satisfies Missing['kind'][]

/** A measure of a region that is not known yet. */
interface Missing {
  readonly kind: 'measure-sound' | 'measure-pictures'
  readonly key: string
  readonly draft: Draft
}

const rangesOf = (d: Draft) => timelineRanges(d.output, d.region)
const soundKey = (d: Draft) => factKeys.regionSound(d.timeline.fingerprint, rangesOf(d), d.route, pauseOf(d.output))
const unitsKeys = (d: Draft) => (d.output.video ? unitsUsed(d).map(factKeys.units) : [])
const picturesKey = (d: Draft) => factKeys.regionPictures(d.timeline.fingerprint, rangesOf(d))

function offerOf({ kind, key, draft: d }: Missing) {
  const { fingerprint, file, linking, model } = d.timeline
  const payload = {
    fact: key,
    source: { ...file, fingerprint, ...(linking ? { assembled: true } : {}) },
    ...{ ranges: rangesOf(d), pause: pauseOf(d.output), rate: model.rate },
    ...(kind === 'measure-sound' ? { route: d.route } : {}),
  }
  return backgroundOffer(kind, payload, workFrames(d.region.out - d.region.in, model.rate))
}

function unmeasured(kind: string, problem: Problem): Problem {
  const what = kind === 'measure-sound' ? 'sound' : 'pictures'
  return { ...problem, message: `The ${what} could not be measured. ${problem.message}` }
}
