import { existsSync } from 'node:fs'
import path from 'node:path'
import type { PictureFacts } from '../../core/analysis/pictures'
import type { RegionSound } from '../../core/analysis/soundstretches'
import { makeDrafts, type Draft, type Situation } from '../../core/deliverable/draft'
import { judgeDraft, type JudgedDraft } from '../../core/deliverable/judged'
import { expandPattern, unusable } from '../../core/deliverable/names'
import { collisions, freePath } from '../../core/deliverable/versions'
import type { Problem } from '../../core/problem'
import type { Queue } from '../queue/port'
import type { Roots } from '../storage/roots'
import type { Db } from '../store/database'
import { factKeys, readFacts } from '../store/facts'
import { backgroundOffer } from '../worker/background'

/** Facts of regions that are kept in memory, so that an edit of one region reads those of no other. */
const keptFacts = 40_000

/** Works out deliverables before they are frozen: names, measures and verdicts. */
export class Deliverables {
  private readonly facts = new Map<string, unknown>()

  constructor(
    private readonly db: Db,
    private readonly roots: Roots,
    private readonly queue: Queue,
  ) {}

  /** Judges all of a situation; regions that have not been measured yet are queued for the workers. */
  async workOut(situation: Situation, today = new Date()): Promise<JudgedDraft[]> {
    const drafts = makeDrafts(situation)
    const missing = await this.loadFacts(drafts)
    const failed = missing.length ? await this.queueMissing(missing) : new Map<string, Problem>()
    const known = (key: string) => this.facts.get(key) ?? failed.get(key) ?? null
    const room = await this.rooms(drafts)
    const targets = await this.targets(drafts, today)
    return drafts.map((d, i) =>
      judgeDraft(d, {
        sound: known(soundKey(d)) as RegionSound | Problem | null,
        pictures: known(picturesKey(d)) as PictureFacts | Problem | null,
        target: targets[i]!,
        room: room.get(d.outlet.root)!,
      }),
    )
  }

  /** Reads facts that are not in memory; what is not there at all comes back as missing. */
  private async loadFacts(drafts: readonly Draft[]): Promise<Missing[]> {
    const wanted = new Map<string, Missing>()
    for (const draft of drafts) {
      if (draft.output.audio) wanted.set(soundKey(draft), { kind: 'measure-sound', key: soundKey(draft), draft })
      if (draft.output.video)
        wanted.set(picturesKey(draft), { kind: 'measure-pictures', key: picturesKey(draft), draft })
    }
    const unread = [...wanted.keys()].filter((k) => !this.facts.has(k))
    for (const [key, value] of await readFacts(this.db, unread)) this.facts.set(key, value)
    // those that no region asks for any more go first, when there are too many
    if (this.facts.size > keptFacts) for (const key of this.facts.keys()) if (!wanted.has(key)) this.facts.delete(key)
    return unread.filter((k) => !this.facts.has(k)).map((k) => wanted.get(k)!)
  }

  private async rooms(drafts: readonly Draft[]): Promise<Map<string, { free: number; needed: number }>> {
    const out = new Map<string, { free: number; needed: number }>()
    for (const d of drafts) {
      const { root } = d.outlet
      const r = out.get(root) ?? { free: await this.roots.free(root).catch(() => 0), needed: 0 }
      out.set(root, { ...r, needed: r.needed + d.output.bytes })
    }
    return out
  }

  /** The name of each draft and the version that is free, and what is wrong with it. */
  private async targets(
    drafts: readonly Draft[],
    today: Date,
  ): Promise<{ path: string; version: number; bad: string | null }[]> {
    const named = await Promise.all(drafts.map((d) => this.name(d, today)))
    const doubled = new Map<number, string>()
    for (const list of collisions(named.map((n, i) => `${drafts[i]!.outlet.root}:${n.first}`)).values())
      for (const i of list) {
        const other = drafts[list.find((k) => k !== i)!]!
        doubled.set(i, `“${other.region.name}” for ${other.outlet.name} would get the same name`)
      }
    return named.map(({ path, version }, i) => ({
      path,
      version,
      bad: unusable(path) ?? doubled.get(i) ?? null,
    }))
  }

  private async name(d: Draft, today: Date): Promise<{ first: string; path: string; version: number }> {
    const folder = d.outlet.folder.replace(/\/+$/, '')
    const { file } = d.timeline
    const context = {
      show: d.timeline.show,
      timeline: d.timeline.model,
      region: d.region,
      number: d.number,
      outlet: d.outlet.name,
      output: d.output,
      source: path.basename(file.path, path.extname(file.path)),
      today,
    }
    const make = (version: number) =>
      `${path.posix.join(folder, expandPattern(d.outlet.pattern, { ...context, version }))}.${d.recipe.container}`
    const first = make(1)
    if (unusable(first)) return { first, path: first, version: 1 }
    const free = await freePath(make, (p) => {
      try {
        return existsSync(this.roots.resolve(d.outlet.root, p))
      } catch {
        return false
      }
    })
    return { first, ...free }
  }

  /**
   * Queues what is to be measured; gives what could not be, by its key. Regions are read from what the pass keeps:
   * while it is under way they wait for it. Sound of a timeline that no pass is made of is measured by itself.
   */
  private async queueMissing(missing: readonly Missing[]): Promise<Map<string, Problem>> {
    const wanted = new Map(missing.map((m) => [m.key, m]))
    const queued = await this.db
      .selectFrom('step')
      .select(['id', 'key', 'kind', 'state', 'problem'])
      .where('run_id', 'is', null)
      .where('kind', 'in', ['measure-sound', 'measure-pictures', 'analyse-sound'])
      .execute()
    const there = new Set(queued.filter((q) => q.state !== 'done').map((q) => q.key))
    // edges that moved on since leave regions behind that nobody asks for any more
    const stale = queued.filter((q) => q.state === 'ready' && q.kind !== 'analyse-sound' && !wanted.has(q.key))
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
    return new Map(failures.map((q) => [q.key, unmeasured(q.kind, JSON.parse(q.problem!) as Problem)]))
  }
}

/** A measure of a region that is not known yet. */
interface Missing {
  readonly kind: 'measure-sound' | 'measure-pictures'
  readonly key: string
  readonly draft: Draft
}

const soundKey = (d: Draft) => factKeys.regionSound(d.timeline.fingerprint, d.region, d.route)
const picturesKey = (d: Draft) => factKeys.regionPictures(d.timeline.fingerprint, d.region)

function offerOf({ kind, key, draft: d }: Missing) {
  const { fingerprint, file, linking, model } = d.timeline
  const payload = {
    fact: key,
    source: { ...file, fingerprint, ...(linking ? { assembled: true } : {}) },
    range: { in: d.region.in, out: d.region.out },
    ...(kind === 'measure-sound' ? { rate: model.rate, route: d.route } : {}),
  }
  return backgroundOffer(kind, payload, d.region.out - d.region.in)
}

function unmeasured(kind: string, problem: Problem): Problem {
  const what = kind === 'measure-sound' ? 'sound' : 'pictures'
  return { ...problem, message: `The ${what} could not be measured. ${problem.message}` }
}
