import { z } from 'zod'
import type { FieldRule, Reading } from '../measure/measure'
import { measureOf, measures } from '../measure/registry'
import { listed } from '../text'
import { patternOf } from './pattern'

/** Forms a field can have, in words and as a test of its text. */
const forms = {
  text: { words: 'text', is: () => true },
  number: { words: 'a number', is: (v: string) => /^-?\d+(\.\d+)?$/.test(v) },
  timecode: { words: 'a timecode', is: (v: string) => /^\d\d:[0-5]\d:[0-5]\d[:;]\d\d$/.test(v) },
  date: { words: 'a date as 2026-03-01', is: isDate },
} as const

/** A day of the calendar as ISO 8601 writes it. */
function isDate(v: string): boolean {
  const day = /^\d{4}-\d\d-\d\d$/.test(v) ? new Date(`${v}T00:00:00Z`) : null
  return day !== null && !Number.isNaN(day.getTime()) && day.toISOString().startsWith(v)
}

/** What a field of programme metadata must be. */
export const fieldSchema: z.ZodType<FieldRule> = z.strictObject({
  name: z.string().trim().min(1),
  form: z.enum(['text', 'number', 'timecode', 'date']).optional(),
  optional: z.boolean().optional(),
  longest: z.number().int().min(1).optional(),
  oneOf: z.array(z.string()).min(1).optional(),
  matches: z
    .string()
    .refine((text) => patternOf(text) !== null, 'this is no regular expression (RE2 syntax)')
    .optional(),
  says: z.string().trim().min(1).max(200).optional(),
  is: z
    .string()
    .refine((name) => measures.some((m) => m.name === name), 'there is no measure of this name')
    .optional(),
})

/** What a field must be, in words: `language (eng or cym)`. */
export function fieldText({ name, form, optional, longest, oneOf, says, is }: FieldRule): string {
  const said = [
    ...(optional ? ['if there is one'] : []),
    ...(form && form !== 'text' ? [forms[form].words] : []),
    ...(says ? [says] : []),
    ...(longest ? [`at most ${longest} letters`] : []),
    ...(oneOf ? [listed(oneOf, 'or')] : []),
    ...(is ? [`as ${measureOf(is).label.toLowerCase()}`] : []),
  ]
  return said.length ? `${name} (${said.join('; ')})` : name
}

/**
 * What is wrong with the fields of programme metadata, each miss with its field; `of` gives what another measure reads
 * of the same file. A field that must be as something that was not measured is a miss as well.
 */
export function fieldMisses(
  metadata: Readonly<Record<string, string>>,
  fields: readonly FieldRule[],
  of: (measure: string) => Reading | null,
): string[] {
  return fields.flatMap((f) => {
    const said = metadata[f.name]?.trim() ?? ''
    const why = said === '' ? (f.optional ? null : 'is missing') : missOf(said, f, of)
    return why ? [`${f.name} ${why}`] : []
  })
}

function missOf(said: string, f: FieldRule, of: (measure: string) => Reading | null): string | null {
  if (f.form && !forms[f.form].is(said)) return `“${said}” is not ${forms[f.form].words}`
  const letters = [...said].length
  if (f.longest !== undefined && letters > f.longest) return `has ${letters} letters, at most ${f.longest} are taken`
  if (f.oneOf && !f.oneOf.includes(said)) return `“${said}” is not ${listed(f.oneOf, 'or')}`
  if (f.matches && !patternOf(f.matches)?.matcher(said).find())
    return f.says ? `“${said}” is not ${f.says}` : `“${said}” does not match ${f.matches}`
  if (!f.is) return null
  const reading = of(f.is)
  const label = measureOf(f.is).label.toLowerCase()
  if (!reading || reading.value === null) return `cannot be held against ${label}, which was not measured`
  return [String(reading.value), reading.text].includes(said) ? null : `“${said}” is not the ${label}, ${reading.text}`
}
