import { z } from 'zod'

/** Everything a rule can ask about, in groups, in the order it is shown. */
export const measures = {
  container: { group: 'structure', name: 'Container' },
  'index-position': { group: 'structure', name: 'Index position' },
  possible: { group: 'structure', name: 'Can be made here' },
  codec: { group: 'picture', name: 'Picture codec' },
  profile: { group: 'picture', name: 'Profile' },
  'bit-depth': { group: 'picture', name: 'Bit depth' },
  chroma: { group: 'picture', name: 'Chroma' },
  raster: { group: 'picture', name: 'Raster' },
  'pixel-aspect': { group: 'picture', name: 'Pixel aspect' },
  scan: { group: 'picture', name: 'Scan' },
  'frame-rate': { group: 'time', name: 'Frame rate' },
  duration: { group: 'time', name: 'Duration' },
  'start-timecode': { group: 'time', name: 'Start timecode' },
  'drop-frame': { group: 'time', name: 'Drop-frame' },
  'sound-codec': { group: 'sound', name: 'Sound codec' },
  'sample-rate': { group: 'sound', name: 'Sample rate' },
  'sound-depth': { group: 'sound', name: 'Sound depth' },
  channels: { group: 'sound', name: 'Channels' },
  loudness: { group: 'sound', name: 'Integrated loudness' },
  'loudness-range': { group: 'sound', name: 'Loudness range' },
  'true-peak': { group: 'sound', name: 'True peak' },
  'silent-channel': { group: 'sound', name: 'Silent channels' },
  phase: { group: 'sound', name: 'Phase correlation' },
  'sound-faults': { group: 'sound', name: 'Clicks, dropouts, phase' },
  black: { group: 'content', name: 'Black' },
  freeze: { group: 'content', name: 'Frozen pictures' },
  flashes: { group: 'content', name: 'Flashes' },
  levels: { group: 'content', name: 'Levels' },
  'first-picture': { group: 'content', name: 'First picture' },
  'last-picture': { group: 'content', name: 'Last picture' },
  metadata: { group: 'metadata', name: 'Programme metadata' },
  'file-name': { group: 'metadata', name: 'File name' },
  'free-room': { group: 'metadata', name: 'Free room' },
} as const

export type MeasureName = keyof typeof measures
export const measureNames = Object.keys(measures) as MeasureName[]

const scalar = z.union([z.string(), z.number(), z.boolean()])

/** What a value must be. */
export const expectationSchema = z.union([
  z.strictObject({ equals: scalar }),
  z.strictObject({ oneOf: z.array(scalar).min(1) }),
  z
    .strictObject({ min: z.number().optional(), max: z.number().optional() })
    .refine((e) => e.min !== undefined || e.max !== undefined, 'give min, max or both'),
  z.strictObject({ target: z.number(), tolerance: z.number().min(0) }),
  z.strictObject({ matches: z.string() }),
  z.strictObject({ includes: z.array(z.string()).min(1) }),
])
export type Expectation = z.infer<typeof expectationSchema>

export const ruleSchema = z.strictObject({
  id: z.string().min(1),
  measure: z.enum(measureNames as [MeasureName, ...MeasureName[]]),
  severity: z.enum(['must', 'should']),
  expect: expectationSchema,
  /** Where the recipient's document says so. */
  clause: z.string(),
})
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
]

/** House rules that ask about the machine before a run, and those that only a written file with pictures can answer. */
const beforeOnly = new Set<MeasureName>(['possible', 'free-room'])
const endPictures = new Set<MeasureName>(['first-picture', 'last-picture'])

/** Rules of a spec with the house rules that apply after them: before a run, or to a file as written. */
export function rulesFor(spec: Spec, stage: 'before' | 'written', pictures: boolean): Rule[] {
  return [
    ...spec.rules,
    ...houseRules.filter(
      (r) => (stage === 'before' || !beforeOnly.has(r.measure)) && (pictures || !endPictures.has(r.measure)),
    ),
  ]
}

/** Reads a spec from JSON text; throws a zod error that names the field. */
export function parseSpec(value: unknown): Spec {
  return specSchema.parse(value)
}
