import { z } from 'zod'
import { having } from '../../core/having'
import { frozenSchema, type FrozenDeliverable } from '../../core/deliverable/sheet'
import { proofOfNow, type Proof } from '../../core/deliverable/proof'
import type { ReportEntry } from '../../core/deliverable/report'
import { checksumsSchema } from '../../core/files/checksums'
import { filePathSchema, type FilePath } from '../../core/media/filepath'
import { fingerprintSchema, type Fingerprint } from '../../core/media/fingerprint'
import type { MediaInfo } from '../../core/media/media'
import { fail, toProblem, type Problem } from '../../core/problem'
import { overridesSchema, recipeSchema } from '../../core/recipe/registry'
import { waiverSchema } from '../../core/spec/waiver'
import { specSchema } from '../../core/spec/spec'
import { kindNames } from '../../core/split/kinds'
import type { Split } from '../../core/split/region'
import type { Linking } from '../../core/split/timeline'
import type { Timeline } from '../../core/timeline/model'

/** How one kind of thing is kept as JSON: with the number of its format, so that each edition knows what it reads. */
interface Stored<T> {
  write(value: T): string
  /** Throws a problem (`data.damaged`, `data.newer`) that names the row. */
  read(text: string, row: string): T
}

/**
 * A kind of thing that is kept. What has no number is of format 1: the first edition wrote none. A field that came
 * later has its default in the schema; a change that this cannot carry is a migration, and the next number.
 */
function stored<T>(what: string, format: number, schema: z.ZodType<T>): Stored<T> {
  return {
    write: (value) => JSON.stringify({ format, value }),
    read(text, row) {
      let found: unknown
      try {
        found = JSON.parse(text)
        const numbered = numberedSchema.safeParse(found).data
        if (numbered && numbered.format > format)
          fail(
            'data.newer',
            `A newer edition of Velvet Crane has kept ${what}.`,
            row,
            'Start the newer edition, or put back the copy of the database that was kept before it.',
          )
        return schema.parse(numbered ? numbered.value : found)
      } catch (e) {
        const problem = toProblem(e)
        if (problem.code === 'data.newer') throw e
        const why =
          e instanceof z.ZodError ? `${e.issues[0]!.path.join('.')}: ${e.issues[0]!.message}` : problem.message
        return fail(
          'data.damaged',
          `The database keeps ${what} that cannot be read: ${why}.`,
          row,
          'Put back the copy of the database that was kept at the last start.',
        )
      }
    },
  }
}

/** A storage root as a whole. */
const storageRootSchema = z.object({ root: z.string(), path: z.literal('') })

const numberedSchema = z.strictObject({ format: z.number().int(), value: z.unknown() })

const problemSchema = having<Problem>('code', 'message')
// the first edition knew neither tracks nor markers
const timelineSchema = having<Timeline>('rate', 'length', 'events').transform((t): Timeline => ({
  ...t,
  tracks: t.tracks ?? [{ name: 'V', kind: 'video' }],
  markers: t.markers ?? [],
}))

/** Everything that is kept as JSON in a column. Facts are not: their format's number stands in their keys. */
export const kept = {
  fileName: stored<FilePath>('the name of a file', 1, filePathSchema),
  fingerprint: stored<Fingerprint>('the fingerprint of media', 1, fingerprintSchema),
  info: stored('a description of media', 1, having<MediaInfo>('container', 'video', 'audio')),
  timeline: stored<Timeline>('a timeline', 1, timelineSchema),
  linking: stored('the sources of a timeline', 1, having<Linking>('assembly')),
  split: stored('a split', 1, having<Split>('regions', 'markers')),
  problems: stored('problems', 1, z.array(problemSchema)),
  problem: stored('a problem', 1, problemSchema),
  recipe: stored('a recipe', 1, recipeSchema),
  kinds: stored('kinds of region', 1, z.array(z.enum(kindNames))),
  checksums: stored('kinds of checksum', 1, checksumsSchema),
  overrides: stored('values laid over a recipe', 1, overridesSchema),
  waivers: stored('waivers', 1, z.array(waiverSchema)),
  specs: stored('specs', 1, z.array(specSchema)),
  frozen: stored<FrozenDeliverable>('a frozen deliverable', 2, frozenSchema),
  proof: stored('a proof', 1, having<Proof>('files', 'info', 'results').transform(proofOfNow)),
  rootNames: stored('names of storage roots', 1, z.array(z.string())),
  reportEntry: stored('a line of a report', 1, having<ReportEntry>('path', 'checksums', 'rules')),
  installation: stored('the name of this installation', 1, z.string()),
  roots: stored(
    'the storage roots',
    1,
    z.array(z.object({ name: z.string(), path: z.string(), marker: z.string().nullable() })),
  ),
  watchedReceived: stored(
    'the folder of files from elsewhere that is watched',
    1,
    filePathSchema.or(storageRootSchema).nullable(),
  ),
  watched: stored(
    'the watched folder',
    1,
    z
      .object({
        folder: filePathSchema.or(storageRootSchema),
        seen: z.array(z.string()),
      })
      .nullable(),
  ),
}
