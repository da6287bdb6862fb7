import type { Expectation, Reading, Readings, Value } from '../measure/measure'
import { measureOf } from '../measure/registry'
import type { Rule } from './spec'

export type Verdict = 'pass' | 'caution' | 'fail' | 'waived' | 'unmeasured'

/** A fail accepted, with reason and initials. */
export interface Waiver {
  readonly rule: string
  readonly reason: string
  readonly initials: string
  readonly at: string
}

/** Worst first: how verdicts of many rules become one. */
const order: readonly Verdict[] = ['fail', 'caution', 'unmeasured', 'waived', 'pass']

export function worstVerdict(list: Iterable<Verdict>): Verdict {
  let worst: Verdict = 'pass'
  for (const v of list) if (order.indexOf(v) < order.indexOf(worst)) worst = v
  return worst
}

/** Whether a value is what is expected. */
export function meets(value: Value, e: Expectation): boolean {
  if ('equals' in e) return value === e.equals
  if ('oneOf' in e) return e.oneOf.includes(value as never)
  if ('matches' in e) return typeof value === 'string' && new RegExp(e.matches, 'u').test(value)
  if ('includes' in e) return Array.isArray(value) && e.includes.every((f) => value.includes(f))
  if (typeof value !== 'number') return false
  // figures are read to a tenth, as they are shown and as meters show them
  const v = Math.round(value * 10) / 10
  if ('target' in e) return Math.abs(v - e.target) <= e.tolerance + 1e-9
  return (e.min === undefined || v >= e.min) && (e.max === undefined || v <= e.max)
}

const plain = (v: unknown) => String(v).replace('-', typeof v === 'number' ? '−' : '-')

/** An expectation in words. */
export function expectationText(rule: Pick<Rule, 'measure' | 'expect'>): string {
  const e = rule.expect
  const measure = measureOf(rule.measure)
  const own = measure.words?.(e)
  if (own) return own
  const unit = measure.unit ?? ''
  if ('equals' in e) return `${plain(e.equals)}${unit}`
  if ('oneOf' in e) return e.oneOf.map((v) => plain(v)).join(' or ') + unit
  if ('matches' in e) return `matches ${e.matches}`
  if ('includes' in e) return e.includes.join(', ')
  if ('target' in e) return `${plain(e.target)} ±${e.tolerance}${unit}`
  if (e.max === 0 && e.min === undefined) return 'none'
  if (e.min !== undefined && e.max !== undefined) return `${plain(e.min)} to ${plain(e.max)}${unit}`
  return e.min !== undefined ? `at least ${plain(e.min)}${unit}` : `at most ${plain(e.max)}${unit}`
}

/** One rule held against the three readings. */
export interface RuleResult {
  readonly rule: Rule
  readonly required: string
  readonly forecast: Reading | null
  readonly source: Reading | null
  readonly written: Reading | null
  readonly verdict: Verdict
  /** Which reading decided. */
  readonly decidedBy: 'forecast' | 'source' | 'written' | null
  readonly why: string
  readonly waiver: Waiver | null
}

/** Judges every rule. As written decides where it is known, then the forecast, then the source's own content. */
export function judge(
  rules: readonly Rule[],
  forecast: Readings,
  source: Readings,
  written: Readings | null,
  waivers: readonly Waiver[],
): RuleResult[] {
  return rules.map((rule) => {
    const measure = measureOf(rule.measure)
    const onlyWritten = measure.stage === 'written'
    const f = forecast[rule.measure] ?? null
    const s = source[rule.measure] ?? null
    const w = written?.[rule.measure] ?? null
    const [decidedBy, reading] = w
      ? ['written' as const, w]
      : written && onlyWritten
        ? [null, null]
        : f
          ? ['forecast' as const, f]
          : s
            ? ['source' as const, s]
            : [null, null]
    const waiver = waivers.find((x) => x.rule === rule.id) ?? null
    const base = { rule, required: expectationText(rule), forecast: f, source: s, written: w, decidedBy, waiver }
    const name = measure.label
    if (!reading) {
      if (onlyWritten && !written)
        return { ...base, verdict: 'pass' as const, why: 'Compared when the file is written.' }
      return { ...base, verdict: 'unmeasured' as const, why: `${name} has not been measured yet.` }
    }
    if (meets(reading.value, rule.expect))
      return { ...base, verdict: 'pass' as const, why: `${name} is ${reading.text}, as required.` }
    const why = `${name} ${decidedBy === 'forecast' ? 'will be' : 'is'} ${reading.text}; required: ${base.required}.`
    if (waiver)
      return { ...base, verdict: 'waived' as const, why: `${why} Accepted by ${waiver.initials}: ${waiver.reason}` }
    return { ...base, verdict: rule.severity === 'must' ? ('fail' as const) : ('caution' as const), why }
  })
}

/** Whether a deliverable may run: no must-rule fails unwaived. */
export function cleared(results: readonly RuleResult[]): boolean {
  return !results.some((r) => r.verdict === 'fail')
}
