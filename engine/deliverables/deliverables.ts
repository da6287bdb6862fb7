import { summaryOf, type Became, type DeliverableSummary } from '../../contract/deliverables'
import { DraftMemo, type Draft, type Situation } from '../../core/deliverable/draft'
import { filesUsed, type JudgedDraft, type Known, type MediaUsed } from '../../core/deliverable/judged'
import { lineageOf, supersededOf } from '../../core/deliverable/lineage'
import { keyText, type DeliverableKey } from '../../core/deliverable/outlet'
import { enoughRoom, roomFor } from '../../core/deliverable/room'
import { grouped } from '../../core/group'
import type { Paces } from '../../core/job/paces'
import { endsOf, isRun } from '../../core/files/fileset'
import type { Problem } from '../../core/problem'
import type { Queue } from '../queue/port'
import type { MediaHealth } from '../timelines/mediahealth'
import type { Roots } from '../storage/roots'
import type { Db } from '../store/database'
import { DeliveredFiles } from '../store/deliverables'
import { Delivery, type KnownBy } from './delivery'
import { DraftFacts, type Wanted } from './draftfacts'
import { DraftNames, doubledOf, targetOf, type Name } from './draftnames'
import type { FilesUnderWay, FileUnderWay } from './underway'

/** Of a storage root: the room on its disk and what all that goes there needs; what is wrong when it cannot be used. */
interface Disk {
  readonly room: Known['room']
  readonly away: Problem | null
  readonly readOnly: Problem | null
}
type Disks = ReadonlyMap<string, Disk>

/** What follows from drafts alone, worked out once for each list of them and each day. */
interface Worked {
  readonly drafts: readonly Draft[]
  readonly day: string
  readonly wanted: Wanted
  readonly names: readonly Name[]
  /** Why another one's name stands in the way, by position. */
  readonly doubled: ReadonlyMap<number, string>
  /** Keys of those that a newer version of goes to the same outlet. */
  readonly superseded: ReadonlySet<string>
  /** Places of the drafts that go to each root; none where one is only read. */
  readonly going: ReadonlyMap<string, readonly number[]>
}

/** What a draft was judged by, and what came of it, as lists show it. */
interface Kept {
  readonly by: By
  /** Null while nothing was delivered, and nothing is under way. */
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
  /** 0 it is not, 1 for what is forecast, 2 for as much as that may be off. */
  readonly enough: number | null
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
  private readonly facts: DraftFacts
  private readonly names = new DraftNames()
  private readonly memo = new DraftMemo()
  private worked: Worked | null = null
  private readonly kept = new WeakMap<Draft, Kept>()
  private readonly made = new WeakMap<Draft, readonly MediaUsed[]>()
  private readonly handed: DeliveredFiles

  constructor(
    db: Db,
    private readonly roots: Roots,
    queue: Queue,
    private readonly media: Pick<MediaHealth, 'of' | 'awaits'>,
    private readonly underWay: FilesUnderWay,
  ) {
    this.facts = new DraftFacts(db, queue)
    this.handed = new DeliveredFiles(db)
  }

  /** Judges all of a situation; regions that have not been measured yet are queued for the workers. */
  async workOut(situation: Situation, today = new Date()): Promise<JudgedDraft[]> {
    const delivered = await this.delivery()
    const drafts = await this.drafts(situation, delivered, { today })
    return drafts.map(({ draft, known }) => delivered.judge(draft, known).judged)
  }

  /** All of a situation by its keys, as lists show it. What did not change since the last call is the same object. */
  async summaries(situation: Situation, today = new Date()): Promise<Map<string, DeliverableSummary>> {
    const out = new Map<string, DeliverableSummary>()
    const delivered = await this.delivery()
    const lineage = lineageOf(situation.timelines)
    const drafts = await this.drafts(situation, delivered, { today })
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
      const underWay = delivered.runOf(kept.knownBy)
      if (underWay !== kept.summary.underWay) kept = { ...kept, summary: { ...kept.summary, underWay } }
      if (kept !== before) this.kept.set(draft, kept)
      out.set(key, kept.summary)
    }
    return out
  }

  /** What was delivered and is still there, and what is under way. */
  async delivery(): Promise<Delivery> {
    const isThere = this.roots.glance()
    const landmarks = (p: string) => (isRun(p) ? endsOf(p) : [p])
    const files = (await this.handed.all()).filter((f) => landmarks(f.path).every((p) => isThere(f.root, p)))
    return new Delivery(files, await this.underWay.all())
  }

  /** Keys of those that a newer version of goes to the same outlet, of the situation that was worked out last. */
  get superseded(): ReadonlySet<string> {
    return this.worked?.superseded ?? new Set()
  }

  /** Some deliverables, judged with all figures as they are this moment; those that are there. */
  async some(situation: Situation, keys: readonly DeliverableKey[]): Promise<JudgedDraft[]> {
    const wanted = new Set(keys.map(keyText))
    const delivered = await this.delivery()
    const drafts = await this.drafts(situation, delivered)
    return drafts.flatMap(({ draft, known }) =>
      wanted.has(keyText(draft.key)) ? [delivered.judge(draft, known).judged] : [],
    )
  }

  /**
   * Every draft of a situation with what is known around it. `asked` are keys of those that go though they are there
   * already, or a newer version of them is: they need room as well.
   */
  async drafts(
    situation: Situation,
    delivered: Delivery,
    {
      today = new Date(),
      asked = new Set<string>(),
    }: { readonly today?: Date; readonly asked?: ReadonlySet<string> } = {},
  ): Promise<{ draft: Draft; known: Known }[]> {
    const worked = this.workedOf(situation, today)
    await this.facts.load(worked.wanted)
    const isThere = this.roots.glance()
    const { paces } = situation
    const known = worked.drafts.map((draft, i): Known => {
      const there = (p: string) => isThere(draft.outlet.root, p)
      const target = targetOf(worked.names[i]!, worked.doubled.get(i), there)
      return { ...this.facts.of(draft), target, room: null, paces, disk: null, media: null, awaited: false }
    })
    const isMade = (i: number) => this.isMade(worked.drafts[i]!, known[i]!, delivered)
    const disks = await this.disks(worked, isMade, delivered.underWay, asked)
    return worked.drafts.map((draft, i) => ({ draft, known: { ...known[i]!, ...this.knownOf(draft, disks) } }))
  }

  /** Whether a draft is there already, or is being made, just as it would be made. */
  private isMade(draft: Draft, known: Known, delivered: Delivery): boolean {
    if (delivered.size === 0) return false
    const kept = this.kept.get(draft)
    const isAsKept = kept && (['sound', 'pictures', 'units'] as const).every((k) => kept.by[k] === known[k])
    const by = (isAsKept && kept.knownBy) || delivered.judge(draft, known).by
    return by !== null && (delivered.has(by) || delivered.runOf(by) !== null)
  }

  private workedOf(situation: Situation, today: Date): Worked {
    const drafts = this.memo.drafts(situation)
    const day = today.toDateString()
    if (this.worked?.drafts === drafts && this.worked.day === day) return this.worked
    const names = drafts.map((d) => this.names.of(d, today))
    const wanted = this.facts.wantedBy(drafts)
    const going = new Map([
      ...drafts.map((d): [string, number[]] => [d.timeline.file.root, []]),
      ...grouped(drafts.keys(), (i) => drafts[i]!.outlet.root),
    ])
    const superseded = supersededOf(
      drafts.map((d) => d.key),
      lineageOf(situation.timelines),
    )
    const doubled = doubledOf(drafts, names, superseded)
    return (this.worked = { drafts, day, wanted, names, doubled, superseded, going })
  }

  /** What the disks that a draft reads and writes say of it. */
  private knownOf(d: Draft, disks: Disks): Pick<Known, 'room' | 'disk' | 'media' | 'awaited'> {
    const target = disks.get(d.outlet.root)!
    const disk = target.away ?? target.readOnly ?? disks.get(d.timeline.file.root)!.away
    // of a disk that is away nothing more needs to be said
    const wrong = disk
      ? undefined
      : this.mediaOf(d)
          .map((f) => this.media.of(f))
          .find((p) => p !== null)
    return {
      room: target.room,
      disk,
      media: wrong ? { ...wrong, message: `${wrong.where ?? 'Its media'}: ${wrong.message}` } : null,
      awaited: !disk && this.mediaOf(d).some((f) => this.media.awaits(f)),
    }
  }

  /** The files that a draft is made from. */
  private mediaOf(d: Draft): readonly MediaUsed[] {
    const files = this.made.get(d) ?? filesUsed(d)
    this.made.set(d, files)
    return files
  }

  /** What can be said of the disks that drafts read and write. */
  private async disks(
    { drafts, going, superseded }: Worked,
    isMade: (i: number) => boolean,
    underWay: readonly FileUnderWay[],
    asked: ReadonlySet<string>,
  ): Promise<Disks> {
    const isAsked = (i: number) => asked.has(keyText(drafts[i]!.key))
    const roots = await Promise.all(
      [...going].map(async ([root, places]) => {
        const away = this.roots.lost(root)
        const readOnly = away ? null : await this.roots.readOnly(root)
        return { root, places, away, readOnly, disk: await this.roots.disk(root).catch(() => null) }
      }),
    )
    const out = new Map<string, Disk>()
    // roots on one disk have their room from the same
    for (const own of grouped(roots, (r) => r.disk?.on ?? r.root).values()) {
      let places = own.flatMap((r) => r.places).filter((i) => isAsked(i) || !superseded.has(keyText(drafts[i]!.key)))
      const { disk } = own[0]!
      const making = underWay.filter((f) => own.some((r) => r.root === f.root))
      const roomOf = (written: number) =>
        disk && roomFor([...places.map((i) => drafts[i]!), ...making], disk.free + written)
      let room = roomOf(0)
      // what is there already, or in part, needs none; that takes longer to tell, and seldom decides
      if (room && (making.length > 0 || !enoughRoom(room))) {
        places = places.filter((i) => isAsked(i) || !isMade(i))
        room = roomOf(making.length > 0 ? await this.underWay.written(making) : 0)
      }
      for (const { root, away, readOnly } of own) out.set(root, { room, away, readOnly })
    }
    return out
  }
}

function byOf({ sound, pictures, units, target, room, paces, disk, media, awaited }: Known): By {
  const { path: file, version, bad } = target
  const enough = room && [0, room.rough].filter((more) => room.free >= room.needed + more).length
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
