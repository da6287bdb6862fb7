import { z } from 'zod'
import { canonical } from '../canonical'
import type { Expectation, Reading, Value } from '../measure/measure'
import type { Seconds } from '../time/rate'
import type { Rule } from './spec'

const seconds = z.custom<Seconds>((v) => typeof v === 'number' && Number.isFinite(v))

/** What stood against a rule when somebody accepted it. */
const acceptedSchema = z.object({
  /** What was asked, see `demandOf`, and how much it weighed. */
  demand: z.string(),
  severity: z.enum(['must', 'should']),
  /** What was said of it. */
  why: z.string(),
  verdict: z.enum(['fail', 'caution', 'unmeasured']),
  /** What of the reading was not as demanded, see `missed`; null where it was not measured, or is no finite number. */
  value: z.union([z.string(), z.number(), z.boolean(), z.array(z.string()), z.array(z.number()), z.null()]),
  text: z.string(),
  /** How far the value was said to move, either way. */
  give: z.number().optional(),
  faults: z.array(z.string()).optional(),
  where: z.array(z.object({ in: seconds, out: seconds })).optional(),
})
type Accepted = Readonly<z.infer<typeof acceptedSchema>>

/** A miss accepted, with reason and initials. */
export const waiverSchema = z.object({
  rule: z.string(),
  reason: z.string(),
  initials: z.string(),
  at: z.string(),
  /** What it is of; `anything` where whatever comes was accepted. An earlier edition kept nothing: it is of nothing. */
  accepted: z.union([z.literal('anything'), acceptedSchema]).optional(),
})
export type Waiver = Readonly<z.infer<typeof waiverSchema>>

/** What a rule came to, as far as an acceptance is of it. */
export interface Miss {
  readonly rule: Rule
  readonly verdict: Accepted['verdict']
  readonly why: string
  /** What it was found by, if anything was. */
  readonly reading: Reading | null
  /** What is wrong with the fields it asks about, each miss in words. */
  readonly misses?: readonly string[]
}

/** Whether a verdict is one that can be accepted. */
export const isMiss = (verdict: string): verdict is Miss['verdict'] =>
  verdict === 'fail' || verdict === 'caution' || verdict === 'unmeasured'

/** Stretches of one acceptance at most; what lies in others was not accepted. */
const most = 500

/** Seconds by which an end of a stretch comes out elsewhere in a coded file. */
const blur = 0.2

const demandOf = ({ measure, expect }: Rule): string => canonical({ measure, expect })

const isFinite = (v: unknown) => typeof v !== 'number' || Number.isFinite(v)

/** What of it is not as expected: fields that miss, names that lack; else the value. */
function missed({ rule: { expect: e }, reading, misses }: Miss): Accepted['value'] {
  const value: Value | null = reading?.value ?? null
  if (value === null || !isFinite(value)) return null
  if (misses) return [...misses]
  if (typeof value !== 'object') return value
  const names: readonly unknown[] = Array.isArray(value) ? value : Object.keys(value)
  if ('includes' in e) return e.includes.filter((name) => !names.includes(name))
  if (!Array.isArray(value)) return canonical(value)
  return value.every(isFinite) ? ([...value] as string[] | number[]) : null
}

/** What somebody accepts who accepts a miss as it stands. */
export function acceptedOf(miss: Miss): Accepted {
  const { rule, verdict, why, reading } = miss
  const { give, faults, where } = reading ?? {}
  return {
    ...{ demand: demandOf(rule), severity: rule.severity, why, verdict, text: reading?.text ?? '' },
    value: missed(miss),
    ...(give ? { give: give.by } : {}),
    ...(faults ? { faults: [...faults] } : {}),
    ...(where ? { where: where.slice(0, most).map((s) => ({ in: s.in, out: s.out })) } : {}),
  }
}

/** By how much a number lies over what is expected, under it where negative; null where no bounds are. */
function excess(v: number, e: Expectation): number | null {
  if (!('target' in e || 'min' in e || 'max' in e)) return null
  const [least, most] =
    'target' in e ? [e.target - e.tolerance, e.target + e.tolerance] : [e.min ?? -Infinity, e.max ?? Infinity]
  return v > most ? v - most : Math.min(0, v - least)
}

/** By how much two numbers may differ that people are shown the same: a tenth, and of bytes and bits a hundredth. */
const unseen = (v: number) => (!Number.isInteger(v) ? 0.1 : Math.abs(v) >= 1e6 ? Math.abs(v) / 100 : 0)

/** Whether a number misses no further than an accepted one, and to the same side, as far as that is shown. */
function noFurther(now: number, was: number, e: Expectation, give: number): boolean {
  const slack = unseen(now) + give + 1e-9
  const [over, before] = [excess(now, e), excess(was, e)]
  if (over === null || before === null) return Math.abs(now - was) <= slack
  return over === 0 || (over > 0 ? over - Math.max(0, before) : Math.min(0, before) - over) <= slack
}

const isNumbers = (v: unknown): v is readonly number[] =>
  Array.isArray(v) && v.length > 0 && v.every((n) => typeof n === 'number')

/** Whether what is found is nothing but what was accepted. */
function isWithin(accepted: Accepted, miss: Miss): boolean {
  const { faults, where, text, give } = miss.reading!
  const [now, was] = [missed(miss), accepted.value]
  if (accepted.faults && faults) return faults.every((f) => accepted.faults!.includes(f))
  if (accepted.where && where)
    return (
      (typeof now === 'number' || now === was) &&
      where.every((s) => accepted.where!.some((a) => s.in >= a.in - blur && s.out <= a.out + blur))
    )
  if (now === null || was === null) return text === accepted.text
  const moved = Math.max(accepted.give ?? 0, give?.by ?? 0)
  const [numbers, before]: readonly unknown[] = [[now].flat(), [was].flat()]
  if (isNumbers(numbers) && isNumbers(before))
    return (
      numbers.length === before.length && numbers.every((v, k) => noFurther(v, before[k]!, miss.rule.expect, moved))
    )
  if (Array.isArray(now)) return Array.isArray(was) && now.every((v) => (was as readonly unknown[]).includes(v))
  // what only tells a class of faults, as “mixed” does, is told apart by its words
  return now === was && text === accepted.text
}

/** Whether a miss is what was accepted: under the same demand, of the same kind, and nothing more or worse. */
export function isAccepted({ accepted }: Waiver, miss: Miss): boolean {
  if (accepted === undefined) return false
  if (accepted === 'anything') return true
  const { rule } = miss
  if (accepted.demand !== demandOf(rule) || (accepted.severity === 'should' && rule.severity === 'must')) return false
  // of what was not measured nobody knew what it would be, and what was known has to be known again
  if (miss.verdict === 'unmeasured' || accepted.verdict === 'unmeasured') return miss.verdict === accepted.verdict
  return isWithin(accepted, miss)
}

/** What was accepted that does not cover what stands now, in words. */
export function lapsedText({ initials, reason, accepted }: Waiver): string {
  const was = typeof accepted === 'object' ? accepted.why : 'something that was not kept.'
  return `Accepted by ${initials} (${reason}) was: ${was}`
}
