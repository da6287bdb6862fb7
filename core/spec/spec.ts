import { z } from 'zod'
import type { Expectation, Measure } from '../measure/measure'
import { measureOf, measures } from '../measure/registry'
import { fieldSchema } from './fields'
import { patternOf } from './pattern'

const scalar = z.union([z.string(), z.number(), z.boolean()])

/** What a value must be. */
export const expectationSchema: z.ZodType<Expectation> = z.union([
  z.strictObject({ equals: scalar }),
  z.strictObject({ oneOf: z.array(scalar).min(1) }),
  z
    .strictObject({ min: z.number().optional(), max: z.number().optional() })
    .refine((e) => e.min !== undefined || e.max !== undefined, 'give min, max or both'),
  z.strictObject({ target: z.number(), tolerance: z.number().min(0) }),
  z.strictObject({
    matches: z.string().refine((text) => patternOf(text) !== null, 'this is no regular expression (RE2 syntax)'),
    says: z.string().trim().min(1).max(200).optional(),
  }),
  z.strictObject({ includes: z.array(z.string()).min(1) }),
  z.strictObject({ fields: z.array(fieldSchema).min(1) }),
])

/** Measures that specifications of earlier editions call by another name. */
const formerNames: Readonly<Record<string, string>> = { papers: 'metadata' }

/** An expectation with its values as the readings of its measure have them. */
function asRead(measure: Measure, e: Expectation): Expectation {
  const means = measure.means ?? ((v) => v)
  if ('equals' in e) return { equals: means(e.equals) }
  return 'oneOf' in e ? { oneOf: e.oneOf.map(means) } : e
}

export const ruleSchema = z
  .strictObject({
    id: z.string().min(1),
    measure: z
      .string()
      .transform((name) => formerNames[name] ?? name)
      .refine((name) => measures.some((m) => m.name === name), 'there is no measure of this name'),
    severity: z.enum(['must', 'should']),
    expect: expectationSchema,
    /** Where the recipient's document says so. */
    clause: z.string(),
  })
  .transform((rule) => ({ ...rule, expect: asRead(measureOf(rule.measure), rule.expect) }))
export type Rule = z.infer<typeof ruleSchema>

/** A recipient's specification; docs/spec-format.md describes it. */
export const specSchema = z.strictObject({
  format: z.literal('velvet-crane-spec/1'),
  id: z.string().regex(/^[a-z0-9-]+$/),
  name: z.string().min(1),
  recipient: z.string(),
  issued: z.string(),
  rules: z.array(ruleSchema).superRefine((rules, context) => {
    const seen = new Set<string>()
    for (const r of rules) {
      if (seen.has(r.id)) context.addIssue({ code: 'custom', message: `two rules are called “${r.id}”` })
      seen.add(r.id)
    }
  }),
})
export type Spec = z.infer<typeof specSchema>

/** Rules that hold for every deliverable, whatever its recipient asks. */
export const houseRules: readonly Rule[] = [
  { id: 'house-possible', measure: 'possible', severity: 'must', expect: { equals: true }, clause: 'House rule 1' },
  { id: 'house-name', measure: 'file-name', severity: 'must', expect: { matches: '.' }, clause: 'House rule 2' },
  { id: 'house-room', measure: 'free-room', severity: 'must', expect: { min: 0 }, clause: 'House rule 3' },
  { id: 'house-first', measure: 'first-picture', severity: 'must', expect: { max: 6 }, clause: 'House rule 4' },
  { id: 'house-last', measure: 'last-picture', severity: 'must', expect: { max: 6 }, clause: 'House rule 4' },
  {
    id: 'house-sound',
    measure: 'own-sound',
    severity: 'must',
    expect: { oneOf: ['own', 'none'] },
    clause: 'House rule 4',
  },
  {
    id: 'house-colour',
    measure: 'colour-kept',
    severity: 'must',
    expect: { equals: true },
    clause: 'House rule 6',
  },
  { id: 'house-intact', measure: 'intact', severity: 'must', expect: { equals: true }, clause: 'House rule 5' },
  {
    id: 'house-shown',
    measure: 'presentation',
    severity: 'must',
    expect: { equals: 'as coded' },
    clause: 'House rule 7',
  },
]

/** What people fall into: said of every deliverable, and kept back by none. */
const traps: readonly Rule[] = [
  { id: 'trap-trial', measure: 'trial', severity: 'should', expect: { equals: 'no' }, clause: 'Trap 1' },
  { id: 'trap-raster', measure: 'set-raster', severity: 'should', expect: { equals: 'whole' }, clause: 'Trap 2' },
  {
    id: 'trap-channels',
    measure: 'heard-channels',
    severity: 'should',
    expect: { equals: 'as written' },
    clause: 'Trap 3',
  },
  {
    id: 'trap-order',
    measure: 'channel-order',
    severity: 'should',
    expect: { oneOf: ['none', 'usual', 'not named'] },
    clause: 'Trap 16',
  },
  { id: 'trap-line-up', measure: 'line-up-twice', severity: 'should', expect: { equals: 'once' }, clause: 'Trap 5' },
  { id: 'trap-handles', measure: 'short-handles', severity: 'should', expect: { equals: 'whole' }, clause: 'Trap 6' },
  { id: 'trap-alpha', measure: 'alpha', severity: 'should', expect: { oneOf: ['none', 'kept'] }, clause: 'Trap 4' },
  {
    id: 'trap-data',
    measure: 'data-kept',
    severity: 'should',
    expect: { oneOf: ['none', 'kept'] },
    clause: 'Trap 7',
  },
  {
    id: 'trap-drawn',
    measure: 'drawn-in',
    severity: 'should',
    expect: { oneOf: ['nothing', 'in a copy'] },
    clause: 'Trap 8',
  },
  {
    id: 'trap-coded',
    measure: 'coded-kept',
    severity: 'should',
    expect: { oneOf: ['none', 'kept'] },
    clause: 'Trap 9',
  },
  { id: 'trap-scale', measure: 'full-scale', severity: 'should', expect: { equals: 'within' }, clause: 'Trap 15' },
  { id: 'trap-fields', measure: 'fields', severity: 'should', expect: { equals: 'as labelled' }, clause: 'Trap 10' },
  {
    id: 'trap-cadence',
    measure: 'cadence',
    severity: 'should',
    expect: { oneOf: ['even', 'held'] },
    clause: 'Trap 12',
  },
]

/** What a deliverable is, as far as it decides which rules hold for it. */
export interface RuledAs {
  readonly pictures: boolean
  /** It goes to nobody: what a recipient asks is said of it, and keeps it back from nothing. */
  readonly trial: boolean
}

/** Whether a rule asks about what is seen in the pictures: black, freezes, flashes, fields, levels. */
const isOfContent = (r: Rule) => {
  const { group, stage } = measureOf(r.measure)
  return group === 'content' && stage !== 'written'
}

/** Measures that rules ask about, by themselves or by a field that has to repeat them. */
export function measuresAsked(rules: readonly Rule[]): Measure[] {
  const repeated = ({ expect: e }: Rule) => ('fields' in e ? e.fields.flatMap((f) => f.is ?? []) : [])
  return [...new Set(rules.flatMap((r) => [r.measure, ...repeated(r)]).map(measureOf))]
}

/** Whether a must-rule of a spec asks about what copied pictures say of themselves. */
export const asksAboutUnits = (spec: Spec): boolean =>
  spec.rules.some((r) => r.severity === 'must' && measureOf(r.measure).ofUnits === true)

/** Whether a must-rule of a spec asks about what is seen in the pictures. */
export const asksAboutContent = (spec: Spec) => spec.rules.some((r) => r.severity === 'must' && isOfContent(r))

/** Whether any rule of a spec does: then every picture of a file has to be seen. */
export const needsAllPictures = (spec: Spec) => spec.rules.some(isOfContent)

/** What is asked besides of files that came from elsewhere: of ours it is written as it is measured. */
const ofOthers: readonly Rule[] = [
  {
    id: 'trap-stated',
    measure: 'stated-loudness',
    severity: 'should',
    expect: { oneOf: ['none', 'as measured'] },
    clause: 'Trap 11',
  },
  {
    id: 'trap-filled-up',
    measure: 'sound-depth-used',
    severity: 'should',
    expect: { oneOf: ['none', 'all'] },
    clause: 'Trap 13',
  },
  {
    id: 'trap-captions',
    measure: 'caption-packets',
    severity: 'should',
    expect: { oneOf: ['none', 'whole'] },
    clause: 'Trap 14',
  },
]

/** House rules and traps that any file can be held to, wherever it came from. */
const ofAnyFile: readonly string[] = ['intact', 'presentation', 'fields', 'cadence', 'channel-order']

/**
 * Rules for a file that came from elsewhere: those of a spec, that it is whole, is shown as it is measured, has the
 * fields, the loudness and the depth of sound that it says, channels in order, a cadence, and captions that are some.
 */
export const rulesForFile = (spec: Spec): Rule[] => [
  ...spec.rules,
  ...[...houseRules, ...traps].filter((r) => ofAnyFile.includes(r.measure)),
  ...ofOthers,
]

/** Rules of a spec with the house rules and traps that apply after them: before a run, or to a file as written. */
export function rulesFor(spec: Spec, stage: 'before' | 'written', { pictures, trial }: RuledAs): Rule[] {
  const applies = (r: Rule) => {
    const m = measureOf(r.measure)
    return (stage === 'before' || m.stage !== 'before') && (pictures || !m.ends)
  }
  const own = trial ? spec.rules.map((r): Rule => ({ ...r, severity: 'should' })) : spec.rules
  // what is seen in every picture is asked of what is written where its recipient asks: then all are looked at
  const ours = [...houseRules, ...traps].filter((r) => applies(r) && (stage === 'before' || !isOfContent(r)))
  return [...own, ...ours]
}

/** Fields of programme metadata that a spec cannot do without, in its order. */
export function fieldsAsked(spec: Spec | undefined): string[] {
  const names = (spec?.rules ?? []).flatMap(({ measure, expect: e }) => {
    if (measure !== 'metadata') return []
    return 'fields' in e ? e.fields.filter((f) => !f.optional).map((f) => f.name) : 'includes' in e ? e.includes : []
  })
  return [...new Set(names)]
}

/** Reads a spec from JSON text; throws a zod error that names the field. */
export function parseSpec(value: unknown): Spec {
  return specSchema.parse(value)
}
