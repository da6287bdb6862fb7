import { z } from 'zod'
import { recipeSchema } from '../recipe/recipe'
import { specSchema } from '../spec/spec'
import type { Assembly } from '../timeline/assemble'

/** What identifies media: a later file of the same name is noticed by any of these. */
export const fingerprintSchema = z.object({
  size: z.number(),
  modified: z.number(),
  /** xxHash64 of the index and of samples of the essence. */
  content: z.string(),
})
export type Fingerprint = z.infer<typeof fingerprintSchema>

/** An assembly whose media is frozen: each source with its fingerprint. */
export type FrozenAssembly = Omit<Assembly, 'sources'> & {
  readonly sources: readonly { readonly root: string; readonly path: string; readonly fingerprint: Fingerprint }[]
}
const assemblySchema = z.custom<FrozenAssembly>(
  (v) =>
    typeof v === 'object' &&
    v !== null &&
    Array.isArray((v as FrozenAssembly).sources) &&
    Array.isArray((v as FrozenAssembly).links),
)

const placeSchema = z.object({ root: z.string(), path: z.string() })
const rateSchema = z.object({ num: z.number().int().positive(), den: z.number().int().positive() })
const readingSchema = z.object({
  value: z.union([z.string(), z.number(), z.boolean(), z.array(z.string()), z.null()]),
  text: z.string(),
  from: z.string(),
})

/** One deliverable, frozen: everything needed to make it again. */
export const sheetItemSchema = z.object({
  id: z.string(),
  title: z.string(),
  timeline: z.object({
    id: z.string(),
    show: z.string(),
    name: z.string(),
    rate: rateSchema,
    dropFrame: z.boolean(),
    start: z.number().int(),
    length: z.number().int(),
  }),
  source: placeSchema.extend({ fingerprint: fingerprintSchema }),
  /** For a timeline of many sources: the part of it that the region needs. */
  assembly: assemblySchema.nullish(),
  region: z.object({
    id: z.string(),
    name: z.string(),
    in: z.number().int(),
    out: z.number().int(),
    metadata: z.record(z.string(), z.string()),
  }),
  /** Chapters within the region, in frames from its first. */
  chapters: z.array(z.object({ at: z.number().int(), name: z.string() })).default([]),
  outlet: z.object({ id: z.string(), name: z.string() }),
  recipe: recipeSchema,
  spec: specSchema,
  target: placeSchema.extend({ version: z.number().int() }),
  /** Readings of the source at the time of freezing, by measure. */
  readings: z.record(z.string(), readingSchema),
  waivers: z.array(z.object({ rule: z.string(), reason: z.string(), initials: z.string(), at: z.string() })),
  bytes: z.number(),
})
export type SheetItem = z.infer<typeof sheetItemSchema>

/** A run sheet: the frozen list of a night run; docs/run-sheet.md describes it. */
export const sheetSchema = z.object({
  format: z.literal('velvet-crane-run-sheet/1'),
  run: z.string(),
  name: z.string(),
  created: z.string(),
  workers: z.number().int().min(1),
  items: z.array(sheetItemSchema),
})
export type RunSheet = z.infer<typeof sheetSchema>
