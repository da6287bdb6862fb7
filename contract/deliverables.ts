import { z } from 'zod'
import type { JudgedDraft } from '../core/deliverable/judged'
import { deliverableKeySchema, ruledAs, type DeliverableKey } from '../core/deliverable/outlet'
import type { Overrides, Recipe } from '../core/recipe/recipe'
import { memoryNeed, type MemoryNeed } from '../core/job/memory'
import { sharedBy, stepKind } from '../core/job/steps'
import { fileBase } from '../core/recipe/output'
import { overridesSchema } from '../core/recipe/registry'
import type { Verdict } from '../core/spec/judge'
import type { Seconds } from '../core/time/rate'
import { formatLength } from '../core/time/timecode'

const keys = z.array(deliverableKeySchema).min(1).max(20_000)

/** What can be decided of deliverables: chosen or not, overridden values, waivers. */
export const deliverableChangeSchema = z.discriminatedUnion('action', [
  z.object({ action: z.literal('choose'), keys, chosen: z.boolean() }),
  z.object({ action: z.literal('override'), keys, values: overridesSchema, reset: z.array(z.string()).default([]) }),
  z.object({
    action: z.literal('waive'),
    keys,
    rule: z.string(),
    reason: z.string().trim().min(1, 'give a reason'),
    initials: z.string().trim().min(1, 'give your initials').max(8),
  }),
  z.object({ action: z.literal('unwaive'), keys, rule: z.string() }),
  /** Lays the plain fix of a rule over each that has one. */
  z.object({ action: z.literal('fix'), keys, rule: z.string() }),
])
export type DeliverableChange = z.input<typeof deliverableChangeSchema>

/** One region for one outlet as the stations show it. */
export interface Deliverable extends DeliverableKey, Omit<JudgedDraft, 'draft' | 'steps'> {
  readonly recipe: Recipe
  readonly overrides: Overrides
}

export function deliverableOf({ draft, steps: _, ...judged }: JudgedDraft): Deliverable {
  return { ...draft.key, ...judged, recipe: draft.recipe, overrides: draft.overrides }
}

/** A rule that is not simply met, in a summary. */
export interface Trouble {
  readonly rule: string
  readonly measure: string
  readonly verdict: Verdict
  /** Whether it keeps the deliverable back. */
  readonly blocks: boolean
  readonly why: string
}

/** What was delivered of a deliverable before. */
export interface Became {
  /** Of the delivered one, for the handover. */
  readonly id: string
  /** Below its outlet's root. */
  readonly path: string
  /** Parts that have changed since, see core/deliverable/identity.ts; none when it would be made just so again. */
  readonly changed: readonly string[]
}

/** Whether a deliverable is there already, as it would be made now. */
export const isDelivered = (d: DeliverableSummary): boolean => d.became?.changed.length === 0

/** A deliverable as lists show it; what each rule says of it is asked for by its key. */
export interface DeliverableSummary extends DeliverableKey {
  readonly title: string
  readonly path: string
  readonly version: number
  readonly overrides: Overrides
  readonly bytes: number
  /** Whether how well it is coded decides how many they will be. */
  readonly rough: boolean
  /** Of its file, in words. */
  readonly length: string
  /** Whether it has pictures: then rules about its ends hold as well. */
  readonly pictures: boolean
  /** Whether it is made to be looked at only. */
  readonly trial: boolean
  /** The pictures it is made from, where it decodes them: others that say the same share them in a night. */
  readonly reads: string | null
  /**
   * Its coded pictures: a night codes those once that several say the same of, and the others take so many seconds.
   * Null where none are coded for it, and where no other's can be the same.
   */
  readonly codes: { readonly sum: string; readonly takenIn: Seconds } | null
  /** The proven file that its pictures are taken from as they are, and seconds without it; null where there is none. */
  readonly earlier: { readonly id: string; readonly path: string; readonly madeIn: Seconds } | null
  readonly verdict: Verdict
  readonly cleared: boolean
  readonly pending: boolean
  readonly undecided: boolean
  readonly seconds: Seconds
  readonly memory: MemoryNeed
  /** A letter for each rule that holds for it, in their order: see {@link verdictLetters}. */
  readonly marks: string
  /** Positions in `marks` of rules that have a plain fix. */
  readonly fixable: readonly number[]
  /** Rules that keep it back or give reason for caution. */
  readonly trouble: readonly Trouble[]
  /** The proven file it was delivered as last, while that is there; null when there is none. */
  readonly became: Became | null
  /** Whether a newer version of it goes to the same outlet. */
  readonly superseded: boolean
  /** The run that makes it just as it is now, by its name; null where none does. */
  readonly underWay: string | null
}

/** Verdicts by their letter in `marks`. */
export const verdictLetters: Readonly<Record<string, Verdict>> = {
  p: 'pass',
  c: 'caution',
  f: 'fail',
  w: 'waived',
  u: 'unmeasured',
  l: 'later',
}

function readBy({ draft, steps }: JudgedDraft): string | null {
  const step = steps.find((s) => stepKind(s.kind).pictures)
  return step ? sharedBy(draft.timeline.id, step) : null
}

export function summaryOf(judged: JudgedDraft): DeliverableSummary {
  const { draft, results, ...j } = judged
  const reads = readBy(judged)
  return {
    ...draft.key,
    title: j.title,
    path: j.path,
    version: j.version,
    overrides: draft.overrides,
    bytes: j.output.bytes,
    rough: j.output.bytesOff === undefined,
    length: formatLength(j.output.frames, fileBase({ output: j.output, timeline: draft.timeline.model })),
    ...ruledAs(j.output, draft.recipe),
    reads,
    earlier: j.earlier && { id: j.earlier.id, path: j.earlier.path, madeIn: j.madeIn },
    verdict: j.verdict,
    cleared: j.cleared,
    pending: j.pending,
    undecided: j.undecided,
    seconds: j.seconds,
    memory: memoryNeed(draft.timeline.info, reads === null ? null : j.output.video),
    marks: results.map((r) => r.verdict[0]!).join(''),
    fixable: results.flatMap((r, i) => (r.fix ? [i] : [])),
    trouble: results
      .filter((r) => r.blocks || r.verdict === 'caution')
      .map((r) => ({
        rule: r.rule.id,
        measure: r.rule.measure,
        verdict: r.verdict,
        blocks: r.blocks,
        why: r.why,
      })),
    codes: null,
    became: null,
    superseded: false,
    underWay: null,
  }
}
