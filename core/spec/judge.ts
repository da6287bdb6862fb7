import type { Expectation, Reading, Readings, Value } from '../measure/measure'
import { measureOf } from '../measure/registry'
import { fieldMisses, fieldText } from './fields'
import { patternOf } from './pattern'
import type { Rule } from './spec'
import { isAccepted, isMiss, type Miss, type Waiver } from './waiver'

/** `later`: asked only of a file once it is written. */
export type Verdict = 'pass' | 'caution' | 'fail' | 'waived' | 'unmeasured' | 'later'

/** Worst first: how verdicts of many rules become one. */
const order: readonly Verdict[] = ['fail', 'caution', 'unmeasured', 'waived', 'pass', 'later']

export function worstVerdict(list: Iterable<Verdict>): Verdict {
  let worst: Verdict | null = null
  for (const v of list) if (worst === null || order.indexOf(v) < order.indexOf(worst)) worst = v
  return worst ?? 'pass'
}

/** Results as people look through them: the worst first, each kind in the order of its spec. */
export const worstFirst = <T extends { readonly verdict: Verdict }>(results: readonly T[]): T[] =>
  [...results].sort((a, b) => order.indexOf(a.verdict) - order.indexOf(b.verdict))

const isRecord = (v: Value): v is Readonly<Record<string, string>> => typeof v === 'object' && !Array.isArray(v)

const isNumbers = (v: Value): v is readonly number[] => Array.isArray(v) && v.every((n) => typeof n === 'number')

/** Whether a value is another one, written as text or not. */
const isSame = (value: Value, expected: string | number | boolean) =>
  value === expected || (typeof value !== 'object' && String(value) === String(expected))

/** Whether a value is what is expected; `of` gives the readings of other measures. */
export function meets(value: Value, e: Expectation, of: ReadingOf = () => null): boolean {
  if ('fields' in e) return isRecord(value) && fieldMisses(value, e.fields, of).length === 0
  if (isNumbers(value) && value.length && !('includes' in e)) return value.every((v) => meets(v, e, of))
  if ('equals' in e) return isSame(value, e.equals)
  if ('oneOf' in e) return e.oneOf.some((x) => isSame(value, x))
  if ('matches' in e) return typeof value === 'string' && (patternOf(e.matches)?.matcher(value).find() ?? false)
  if ('includes' in e) {
    const names = isRecord(value) ? Object.keys(value) : value
    return Array.isArray(names) && e.includes.every((f) => (names as readonly unknown[]).includes(f))
  }
  if (isNumbers(value)) return true
  if (typeof value !== 'number') return false
  // values are held as they are, whatever their text shows; the slack is that of binary fractions alone
  const slack = 1e-9
  if ('target' in e) return Math.abs(value - e.target) <= e.tolerance + slack
  return (e.min === undefined || value >= e.min - slack) && (e.max === undefined || value <= e.max + slack)
}

/** Whether a number that is as expected may come out otherwise, as far as it may be off. */
const mayMiss = ({ value, give }: Reading, e: Expectation) =>
  give !== undefined &&
  value !== null &&
  (isNumbers(value) ? value : [value]).some(
    (v) => typeof v === 'number' && Number.isFinite(v) && [v - give.by, v + give.by].some((moved) => !meets(moved, e)),
  )

/** Whether a reading is exact enough to decide: a rough forecast may lie wholly inside what is expected, or outside. */
function isSure({ aside, give, value }: Reading, e: Expectation): boolean {
  if (aside !== 'rough') return true
  if (!give || typeof value !== 'number' || !('target' in e || 'min' in e || 'max' in e)) return false
  const [least, most] =
    'target' in e ? [e.target - e.tolerance, e.target + e.tolerance] : [e.min ?? -Infinity, e.max ?? Infinity]
  const [low, high] = [value - give.by, value + give.by]
  return (low >= least && high <= most) || high < least || low > most
}

/** What another measure reads of the same. */
type ReadingOf = (measure: string) => Reading | null

/** A reading's text; with more places where a rounded figure would seem to meet what the value does not. */
function exactText({ value, text }: Reading, e: Expectation): string {
  const values = value === null ? [] : isNumbers(value) ? value : [value]
  return values.reduce<string>((said, v) => {
    if (typeof v !== 'number' || !Number.isFinite(v)) return said
    const rounded = Math.round(v * 10) / 10
    const figure = plain(rounded.toFixed(1))
    const misleads = rounded !== v && !meets(v, e) && meets(rounded, e)
    const shown = values === value ? said.includes(figure) : said.startsWith(figure)
    return misleads && shown ? said.replace(figure, plain(Number(v.toFixed(4)))) : said
  }, text)
}

const plain = (v: unknown) => String(v).replace(/^-(?=[\d.])/, '−')

/** An expectation in words. */
export function expectationText(rule: Pick<Rule, 'measure' | 'expect'>): string {
  const e = rule.expect
  const measure = measureOf(rule.measure)
  const own = measure.words?.(e)
  if (own) return own
  const unit = measure.unit ?? ''
  if ('equals' in e) return `${plain(e.equals)}${unit}`
  if ('oneOf' in e) return e.oneOf.map((v) => plain(v)).join(' or ') + unit
  if ('matches' in e) return e.says ?? `matches ${e.matches}`
  if ('includes' in e) return e.includes.join(', ')
  if ('fields' in e) return e.fields.map(fieldText).join(', ')
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
  /** Whether it keeps a file back. */
  readonly blocks: boolean
  /** Which reading decided. */
  readonly decidedBy: 'forecast' | 'source' | 'written' | null
  readonly why: string
  /** What is wrong with fields of programme metadata, each miss in words, where it asks about them. */
  readonly misses?: readonly string[]
  /** What it was accepted by, where that is why it is waived. */
  readonly waiver: Waiver | null
  /** What was accepted of the rule, where it does not cover what stands against it now. */
  readonly lapsed?: Waiver
}

/**
 * Judges every rule. As written decides where it is known, then the forecast, then the source's own content: what its
 * headers say of it is told and decides nothing.
 */
export function judge(
  rules: readonly Rule[],
  forecast: Readings,
  source: Readings,
  written: Readings | null,
  waivers: readonly Waiver[],
): RuleResult[] {
  return rules.map((rule) => {
    const f = forecast[rule.measure] ?? null
    const s = source[rule.measure] ?? null
    const w = written?.[rule.measure] ?? null
    const measure = measureOf(rule.measure)
    const [decidedBy, reading] = w
      ? ['written' as const, w]
      : written && measure.stage === 'written'
        ? [null, null]
        : f
          ? ['forecast' as const, f]
          : s && !s.aside
            ? ['source' as const, s]
            : [null, null]
    const required = expectationText(rule)
    const of: ReadingOf = (name) => (written ? written[name] : (forecast[name] ?? source[name])) ?? null
    const found = reading
      ? verdictOf(rule, required, reading, decidedBy === 'forecast', of)
      : verdictWithout(rule, required, written !== null, s, of)
    const result: RuleResult = {
      rule,
      required,
      forecast: f,
      source: s,
      written: w,
      decidedBy,
      waiver: null,
      verdict: found.verdict,
      blocks: blocks(rule, found.verdict),
      why: found.why,
      ...(found.misses ? { misses: found.misses } : {}),
    }
    const waiver = waivers.find((x) => x.rule === rule.id)
    return waiver ? accepting(waiver, result) : result
  })
}

/** What can be accepted of a rule as it stands; null where nothing stands against it. */
export function missOf({ rule, verdict, why, misses, decidedBy, ...readings }: RuleResult): Miss | null {
  const reading = decidedBy ? readings[decidedBy] : readings.source
  return isMiss(verdict) ? { rule, verdict, why, reading, ...(misses ? { misses } : {}) } : null
}

/** A result with what was accepted of its rule, which it is or is not. */
function accepting(waiver: Waiver, result: RuleResult): RuleResult {
  const miss = missOf(result)
  if (!miss) return result
  const { initials, reason, accepted } = waiver
  if (!isAccepted(waiver, miss))
    return { ...result, why: `${miss.why} That is not what ${initials} accepted.`, lapsed: waiver }
  const by = accepted === 'anything' ? `${initials}, whatever it comes to` : initials
  return { ...result, verdict: 'waived', blocks: false, why: `${miss.why} Accepted by ${by}: ${reason}`, waiver }
}

/** Whether a verdict keeps a file back: a must-rule that fails, or that nothing could be measured for. */
export const blocks = (rule: Pick<Rule, 'severity'>, verdict: Verdict) =>
  verdict === 'fail' || (verdict === 'unmeasured' && rule.severity === 'must')

interface Found {
  readonly verdict: Exclude<Verdict, 'waived'>
  readonly why: string
  readonly misses?: readonly string[]
}

/** What is made of a rule that no reading decides; `source`: what is known of the source, where that is something. */
function verdictWithout(
  { measure, expect }: Rule,
  required: string,
  isWritten: boolean,
  source: Reading | null,
  of: ReadingOf,
): Found {
  const { label, stage } = measureOf(measure)
  const aside = source?.aside
  if (isWritten) return { verdict: 'unmeasured', why: `${label}: could not be measured.` }
  if (stage === 'written') return { verdict: 'later', why: 'Compared when the file is written.' }
  if (aside === 'changed') {
    const later = 'Its pictures are changed on the way: compared when the file is written.'
    // what is wrong with the source seldom goes away on the way, and somebody is to know before the night
    return source!.value === null || meets(source!.value, expect, of)
      ? { verdict: 'later', why: later }
      : { verdict: 'caution', why: `${label} of the source: ${source!.text}; required: ${required}. ${later}` }
  }
  if (aside === 'said')
    return {
      verdict: 'unmeasured',
      why: `${label}: not known of the file; what its source says does not count for it.`,
    }
  return { verdict: 'unmeasured', why: `${label}: not measured yet.` }
}

/** What a reading makes of a rule, before waivers; `forecast` is for its words. */
function verdictOf(rule: Rule, required: string, reading: Reading, forecast: boolean, of: ReadingOf): Found {
  const { label, unit, counts } = measureOf(rule.measure)
  const e = rule.expect
  if (reading.value === null) return { verdict: 'unmeasured', why: `${label}: cannot be measured, ${reading.text}.` }
  if ('matches' in e && !patternOf(e.matches))
    return { verdict: 'unmeasured', why: `“${e.matches}” is no regular expression; the spec has to be corrected.` }
  const subject = counts ? `${label}:` : `${label} ${forecast ? 'will be' : 'is'}`
  if (!isSure(reading, e)) {
    const later = `${subject} ${reading.text}; required: ${required}. Compared when the file is written.`
    return { verdict: meets(reading.value, e, of) ? 'later' : 'caution', why: later }
  }
  if (meets(reading.value, e, of)) {
    const give = mayMiss(reading, e) ? reading.give : null
    if (!give) return { verdict: 'pass', why: `${subject} ${reading.text}, as required.` }
    const off = give.text ?? `${give.by}${(unit ?? '').replace(/ (LU)FS$| (dB)TP$/, ' $1$2')}`
    return {
      verdict: 'caution',
      why: `${subject} ${reading.text} ${give.when}, which may move it by ${off}; required: ${required}.`,
    }
  }
  const verdict = rule.severity === 'must' ? 'fail' : 'caution'
  if ('fields' in e && isRecord(reading.value)) {
    const misses = fieldMisses(reading.value, e.fields, of)
    return { verdict, why: `${label}: ${misses.join('; ')}.`, misses }
  }
  const text = exactText(reading, e).replace(/\.$/, '')
  // a rule that writes a value as it is shown asks for another one all the same
  const is = text === required && typeof reading.value === 'string' ? `${text} (“${reading.value}”)` : text
  return { verdict, why: `${subject} ${is}; required: ${required}.` }
}

/** Whether a deliverable may run: no must-rule fails, or went unmeasured, unwaived. */
export function cleared(results: readonly RuleResult[]): boolean {
  return !results.some((r) => r.blocks)
}
