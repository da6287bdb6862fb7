import { z } from 'zod'
import { headPer, type MeasuredHead } from '../analysis/head'
import { programmeFrames } from '../lineup/lineup'
import { checksumsSchema, usualChecksums, type ChecksumName } from '../files/checksums'
import { fingerprintSchema } from '../media/fingerprint'
import { filePathSchema } from '../media/filepath'
import { scanSchema } from '../media/scan'
import type { Output } from '../recipe/output'
import { recipeSchema } from '../recipe/registry'
import { specSchema } from '../spec/spec'
import { waiverSchema } from '../spec/waiver'
import { plainText } from '../text'
import type { FrozenAssembly } from '../timeline/assembly/assembly'

const isObject = (v: unknown): v is Record<string, unknown> => typeof v === 'object' && v !== null
const assemblySchema = z.custom<FrozenAssembly>(
  (v) => isObject(v) && Array.isArray(v.sources) && Array.isArray(v.links),
)
const headSchema = z.custom<MeasuredHead>((v) => isObject(v) && isObject(v.lineUp) && typeof v.programme === 'number')
const outputSchema = z.custom<Output>((v) => isObject(v) && typeof v.container === 'string' && isObject(v.start))

const frames = z.number().int()
const rateSchema = z.object({ num: z.number().int().positive(), den: z.number().int().positive() })
const readingSchema = z.object({
  value: z.union([
    z.string(),
    z.number(),
    z.boolean(),
    z.array(z.string()),
    z.array(z.number().nullable()),
    z.record(z.string(), z.string()),
    z.null(),
  ]),
  text: z.string(),
  from: z.string(),
  which: z.array(z.number()).optional(),
  faults: z.array(z.string()).optional(),
})
const stepSchema = z.object({
  key: z.string(),
  kind: z.string(),
  needs: z.array(z.string()),
  range: z.object({ in: frames, out: frames }),
  abilities: z.array(z.string()),
  pace: z.string().optional(),
})

/** A file that was delivered and proven before, or is to be in the same run: the deliverable it is, and where it is. */
const earlierSchema = filePathSchema.extend({ id: z.string() })
export type EarlierFile = z.infer<typeof earlierSchema>

/** One deliverable, frozen: everything needed to make it again, on any machine, without working anything out anew. */
export const frozenSchema = z.object({
  format: z.literal(2),
  id: z.string(),
  title: z.string(),
  timeline: z.object({
    id: z.string(),
    show: z.string(),
    name: z.string(),
    rate: rateSchema,
    dropFrame: z.boolean(),
    start: frames,
    length: frames,
  }),
  /** The day of the run, as line-up says it. */
  date: z.string().optional(),
  source: filePathSchema.extend({ fingerprint: fingerprintSchema, scan: scanSchema.optional() }),
  /** For a timeline of many sources: the part of it that the region needs. */
  assembly: assemblySchema.nullish(),
  region: z.object({
    id: z.string(),
    name: z.string(),
    in: frames,
    out: frames,
    metadata: z.record(z.string(), z.string()),
    /** How much of it, from its ends, is handles. */
    handles: z.object({ before: frames, after: frames }).optional(),
  }),
  /** Line-up of the timeline that the file begins with, in frames of the timeline from the first of them. */
  head: headSchema.optional(),
  /** Pictures of the timeline that cannot be decoded, where that was accepted: the one before stands in for each. */
  damaged: z.array(z.object({ in: frames, out: frames })).optional(),
  /** Chapters within the region, in frames of the file. */
  chapters: z.array(z.object({ at: frames, name: z.string() })).default([]),
  /** Faults of the split at the region that somebody accepted at the desk. */
  accepted: z.array(z.object({ text: z.string(), reason: z.string(), initials: z.string() })).optional(),
  outlet: z.object({ id: z.string(), name: z.string(), checksums: checksumsSchema.optional() }),
  recipe: recipeSchema,
  spec: specSchema,
  target: filePathSchema.extend({ version: z.number().int() }),
  /** The file it will be. */
  output: outputSchema,
  /** The file that its pictures are taken from, coded as they are; absent where they are made. */
  earlier: earlierSchema.optional(),
  /** The steps that make it; none where an earlier edition froze it. */
  steps: z.array(stepSchema),
  /** Source channels in the output's order, from 0; −1 is silence. */
  route: z.array(z.number().int()),
  /** Seconds of work, forecast on one worker. */
  seconds: z.number(),
  /** Readings of the source at the time of freezing, by measure. */
  readings: z.record(z.string(), readingSchema),
  waivers: z.array(waiverSchema),
})
export type FrozenDeliverable = z.infer<typeof frozenSchema>

/** The kinds of checksum that the outlet of a deliverable is sent. */
export const checksumsFor = ({ outlet }: Pick<FrozenDeliverable, 'outlet'>): readonly ChecksumName[] =>
  outlet.checksums ?? usualChecksums

interface TopLine extends Pick<FrozenDeliverable, 'recipe' | 'date'> {
  readonly region: Pick<FrozenDeliverable['region'], 'name'>
}

/** What is drawn at the top of pictures: name and day of the run, as far as they were asked for. */
export function topLine({ recipe, region, date }: TopLine): string {
  const parts = [recipe.burnName ? region.name : '', recipe.burnDate ? (date ?? '') : '']
  return plainText(parts.filter(Boolean).join('   '))
}

/** Line-up that the region begins with, in frames of the file: a still of its middle has none of it. */
export function headIn({ head, output }: Pick<FrozenDeliverable, 'head' | 'output'>): MeasuredHead | null {
  const own = head && headPer(head, output.perFrame ?? 1)
  return own && programmeFrames(output) > own.programme ? own : null
}

/** A run sheet: the frozen list of a night run; docs/run-sheet.md describes it. */
export const sheetSchema = z.object({
  format: z.literal('velvet-crane-run-sheet/2'),
  run: z.string(),
  name: z.string(),
  created: z.string(),
  workers: z.number().int().min(0),
  deliverables: z.array(frozenSchema),
})
export type RunSheet = z.infer<typeof sheetSchema>
