import type { PictureFacts } from '../../core/analysis/pictures'
import type { RegionSound } from '../../core/analysis/soundstretches'
import { unitsTogether, type SourceUnits, type UnitFacts } from '../../core/codec/unitfacts'
import type { Draft } from '../../core/deliverable/draft'
import { soundMeasured, unitsUsed, type Known } from '../../core/deliverable/judged'
import { pauseOf, timelineRanges } from '../../core/lineup/lineup'
import type { Problem } from '../../core/problem'
import { heardLayout } from '../../core/recipe/soundtaken'
import { workFrames } from '../../core/time/samples'
import type { Queue } from '../queue/port'
import { changesAfter, lastChange } from '../store/changes'
import type { Db } from '../store/database'
import { problemOf } from '../store/deliverables'
import { factKeys, readFacts } from '../store/facts'
import { backgroundOffer } from '../worker/background'

/** Facts of regions that are kept in memory, so that an edit of one region reads those of no other. */
const keptFacts = 40_000

/** Keys of the facts that a draft is judged by. */
interface Keys {
  readonly sound: string
  readonly pictures: string
  readonly units: readonly string[]
}

/** A measure of a region that is not known yet. */
interface Missing {
  readonly kind: 'measure-sound' | 'measure-pictures'
  readonly key: string
  readonly draft: Draft
}

/** Facts that are asked for, by their keys; null of those of media, which were asked for when it was brought in. */
export type Wanted = ReadonlyMap<string, Missing | null>

/** Measures of regions. */
const measuring: readonly string[] = ['measure-sound', 'measure-pictures'] satisfies Missing['kind'][]

/** What drafts are judged by that was measured: read where it is kept, asked of the workers where it is not. */
export class DraftFacts {
  private readonly facts = new Map<string, unknown>()
  private missing: Wanted = new Map()
  private failed = new Map<string, Problem>()
  private factsAt = -1
  private readonly keyed = new WeakMap<Draft, Keys>()
  /** What is said by the pictures of several files together, by the keys of its facts. */
  private readonly together = new Map<string, SourceUnits>()

  constructor(
    private readonly db: Db,
    private readonly queue: Queue,
  ) {}

  /** What drafts are judged by. */
  wantedBy(drafts: readonly Draft[]): Wanted {
    const wanted = new Map<string, Missing | null>()
    for (const draft of drafts) {
      const { sound, pictures, units } = this.keysOf(draft)
      if (soundMeasured(draft)) wanted.set(sound, { kind: 'measure-sound', key: sound, draft })
      if (draft.output.video) wanted.set(pictures, { kind: 'measure-pictures', key: pictures, draft })
      for (const key of units) wanted.set(key, null)
    }
    return wanted
  }

  /** Reads facts that are not in memory; asks the workers for those that are not there at all. */
  async load(wanted: Wanted): Promise<void> {
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

  /** What is known of a draft, of what was loaded: null is not known yet, a problem says why it never will be. */
  of(draft: Draft): Pick<Known, 'sound' | 'pictures' | 'units'> {
    const { sound, pictures, units } = this.keysOf(draft)
    const fact = (key: string) => this.facts.get(key) ?? this.failed.get(key) ?? null
    return {
      sound: fact(sound) as RegionSound | Problem | null,
      pictures: fact(pictures) as PictureFacts | Problem | null,
      units: this.unitsOf(units),
    }
  }

  private keysOf(d: Draft): Keys {
    const keys = this.keyed.get(d) ?? { sound: soundKey(d), pictures: picturesKey(d), units: unitsKeys(d) }
    this.keyed.set(d, keys)
    return keys
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

  /**
   * Queues what is to be measured; gives what could not be, by its key. Regions are read from what the pass keeps:
   * while it is under way they wait for it. Sound of a timeline that no pass is made of is measured by itself.
   */
  private async queueMissing(wanted: Wanted): Promise<Map<string, Problem>> {
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

const rangesOf = (d: Draft) => timelineRanges(d.output, d.region)
/** How the sound of a file is heard of its timeline. */
const heardIn = (d: Draft) => ({
  ...{ route: d.route, layout: heardLayout(d.output, d.source, d.route), pause: pauseOf(d.output) },
  ...(d.output.audio?.downmix ? { downmix: d.output.audio.downmix } : {}),
})
const soundKey = (d: Draft) => factKeys.regionSound(d.timeline.fingerprint, rangesOf(d), heardIn(d))
const unitsKeys = (d: Draft) => (d.output.video ? unitsUsed(d).map(factKeys.units) : [])
const picturesKey = (d: Draft) => factKeys.regionPictures(d.timeline.fingerprint, rangesOf(d))

function offerOf({ kind, key, draft: d }: Missing) {
  const { fingerprint, file, linking, model } = d.timeline
  const payload = {
    fact: key,
    source: { ...file, fingerprint, ...(linking ? { assembled: true } : {}) },
    ...{ ranges: rangesOf(d), rate: model.rate },
    ...(kind === 'measure-sound' ? heardIn(d) : { pause: pauseOf(d.output) }),
  }
  return backgroundOffer(kind, payload, workFrames(d.region.out - d.region.in, model.rate))
}

function unmeasured(kind: string, problem: Problem): Problem {
  const what = kind === 'measure-sound' ? 'sound' : 'pictures'
  return { ...problem, message: `The ${what} could not be measured. ${problem.message}` }
}
