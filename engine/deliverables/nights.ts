import { setTimeout as sleep } from 'node:timers/promises'
import type { Situation } from '../../core/deliverable/draft'
import { judgeDraft, undecided, type JudgedDraft } from '../../core/deliverable/judged'
import { changedParts, partsOf, type Parts } from '../../core/deliverable/identity'
import { keyText, notSent, type DeliverableKey } from '../../core/deliverable/outlet'
import { freeze } from '../../core/deliverable/freeze'
import type { FrozenDeliverable } from '../../core/deliverable/sheet'
import { programmeRange } from '../../core/lineup/lineup'
import type { Frames } from '../../core/time/rate'
import { formatTimecode } from '../../core/time/timecode'
import { missOf } from '../../core/spec/judge'
import { acceptedOf, type Waiver } from '../../core/spec/waiver'
import type { FrozenSince } from '../../contract/runs'
import type { Abilities } from '../../core/recipe/output'
import type { ShelfTable } from '../../contract/shelf'
import type { Paces } from '../../core/job/paces'
import type { Db } from '../store/database'
import { readPaces } from '../store/paces'
import type { Runs } from '../runs/runs'
import type { Timelines } from '../timelines/timelines'
import { machineAbilities } from '../worker/codecs'
import type { Deliverables } from './deliverables'
import { lineUpPicture } from './lineup'
import type { Outlets } from './outlets'

const keyOf = ({ timeline, region, outlet }: FrozenDeliverable): DeliverableKey => ({
  ...{ timelineId: timeline.id, regionId: region.id, outletId: outlet.id },
})

/** From the stations' present state to a night run. */
export class Nights {
  /** Kept, since every draft follows from them. */
  private able: { readonly tables: readonly ShelfTable[]; readonly abilities: Abilities } | null = null
  private learned: { readonly at: number; readonly paces: Paces } = { at: 0, paces: new Map() }

  constructor(
    private readonly db: Db,
    private readonly timelines: Timelines,
    private readonly outlets: Outlets,
    private readonly deliverables: Deliverables,
    private readonly runs: Runs,
  ) {}

  /** Everything that deliverables follow from, as it is now. */
  async situation(): Promise<Situation> {
    const [timelines, { outlets, specs, tables, choices }, able] = await Promise.all([
      this.timelines.list(),
      this.outlets.all(),
      machineAbilities(),
    ])
    if (this.able?.tables !== tables) this.able = { tables, abilities: { ...able, tables: tables.map((t) => t.id) } }
    const { abilities } = this.able
    return { timelines, outlets, specs, choices, abilities, paces: await this.paces() }
  }

  /** How fast steps have gone; looked up once a minute, since every forecast follows from it. */
  private async paces(): Promise<Paces> {
    if (Date.now() - this.learned.at > 60_000) {
      const now = await readPaces(this.db)
      const same = now.size === this.learned.paces.size && [...now].every(([k, v]) => this.learned.paces.get(k) === v)
      this.learned = { at: Date.now(), paces: same ? this.learned.paces : now }
    }
    return this.learned.paces
  }

  /** All deliverables as they are now, judged. */
  async judged(): Promise<JudgedDraft[]> {
    return this.deliverables.workOut(await this.situation())
  }

  /** One deliverable as it is now, judged; null when it is not there. */
  async judgedOne(key: DeliverableKey): Promise<JudgedDraft | null> {
    return (await this.judgedSome([key]))[0] ?? null
  }

  private async judgedSome(keys: readonly DeliverableKey[]): Promise<JudgedDraft[]> {
    return this.deliverables.some(await this.situation(), keys)
  }

  /** A picture of the line-up that a deliverable will begin with, as JPEG: that of a frame of its file. */
  async lineUp(key: DeliverableKey, n: Frames): Promise<Buffer> {
    const judged = await this.judgedOne(key)
    return judged ? lineUpPicture(judged, n) : notSent()
  }

  /** The deliverables of a run as they were frozen, and what has changed at the stations since. */
  async since(run: string): Promise<FrozenSince[]> {
    const before = await this.runs.frozen(run)
    const wanted = new Set(before.map((d) => keyText(keyOf(d))))
    const now = new Map<string, Parts>()
    const drafts = await this.deliverables.drafts(await this.situation(), await this.deliverables.delivery())
    for (const { draft, known } of drafts) {
      const key = keyText(draft.key)
      if (wanted.has(key)) now.set(key, partsOf(freeze(judgeDraft(draft, known), '')))
    }
    return before.map((d) => {
      const parts = now.get(keyText(keyOf(d)))
      const label = (frame: Frames) => formatTimecode(d.timeline.start + frame, d.timeline)
      const { in: first, out } = programmeRange(d.output, d.region)
      return {
        ...{ id: d.id, first: label(first), last: label(out - 1), recipe: d.recipe.name },
        changed: parts ? changedParts(partsOf(d), parts) : null,
      }
    })
  }

  /** Lays the plain fix of a rule over each of these deliverables that has one. */
  async fix(keys: readonly DeliverableKey[], rule: string): Promise<void> {
    for (const d of await this.judgedSome(keys)) {
      const fix = d.results.find((r) => r.rule.id === rule)?.fix
      if (fix) await this.outlets.override([d.draft.key], fix.overrides)
    }
  }

  /** Accepts what stands against a rule in each of these deliverables now; where nothing does, there is nothing to. */
  async waive(keys: readonly DeliverableKey[], by: Omit<Waiver, 'accepted'>): Promise<void> {
    for (const d of await this.judgedSome(keys)) {
      const result = d.results.find((r) => r.rule.id === by.rule)
      const miss = result && missOf(result)
      if (miss) await this.outlets.waive([d.draft.key], { ...by, accepted: acceptedOf(miss) })
    }
  }

  /**
   * Freezes cleared deliverables into a run and starts it: those of `keys`, or all but what was delivered already, is
   * still there, and has not changed since, and what a newer version of goes in its place. Pictures that are there,
   * coded as they would be, in a file that was proven are taken from it, unless all is to be made `anew`.
   */
  async start(name: string, workers: number, keys: readonly string[] | null = null, anew = false): Promise<string> {
    // a file that went a moment ago is not to be found out in the night
    await this.timelines.media.look()
    const situation = await this.situation()
    const wanted = keys && new Set(keys)
    const all = async () =>
      this.deliverables.drafts(situation, await this.deliverables.delivery(), { asked: wanted ?? new Set() })
    let drafts = await all()
    // what is being measured right now may decide whether a file is cleared: it is worth a short wait
    for (let i = 0; i < 100 && drafts.some(({ draft, known }) => undecided(draft, known)); i++) {
      await sleep(200)
      if (i % 5 === 4 && drafts.some(({ known }) => known.awaited)) await this.timelines.media.look()
      drafts = await all()
    }
    const delivered = await this.deliverables.delivery()
    const { superseded } = this.deliverables
    const chosen = (function* () {
      for (const { draft, known } of drafts) {
        if (wanted ? !wanted.has(keyText(draft.key)) : superseded.has(keyText(draft.key))) continue
        const { judged, by } = delivered.judge(draft, known)
        if (judged.cleared && (wanted || !by || !(delivered.has(by) || delivered.runOf(by) !== null)))
          yield anew ? judgeDraft(draft, known) : judged
      }
    })()
    return this.runs.start(this.runs.freeze(name, workers, chosen, situation.paces))
  }
}
