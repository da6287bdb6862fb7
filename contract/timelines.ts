import { z } from 'zod'
import type { PictureFacts } from '../core/analysis/pictures'
import type { SamePictures } from '../core/analysis/samepictures'
import type { SoundAnalysis } from '../core/analysis/soundanalysis'
import { filePathSchema } from '../core/media/filepath'
import { scanSchema } from '../core/media/scan'
import type { Problem } from '../core/problem'
import { kindNames } from '../core/split/kinds'
import type { SplitTimeline } from '../core/split/timeline'
import { parseRate, type Rate } from '../core/time/rate'
import type { CutComparison } from '../core/timeline/comparecuts'
import type { Source } from '../core/timeline/link/source'
import { soundTrackReadings } from '../core/timeline/model'
import type { Change } from '../core/timeline/versions'

const name = z.string().trim().min(1)

/** Brings in a media file, with its list when there is one, or an interchange file. */
export const bringInSchema = z.object({
  media: filePathSchema,
  cuts: filePathSchema.optional(),
  show: name.optional(),
  name: name.optional(),
})

/**
 * What can be set of a timeline: its name, its cuts and how far they lie from where the list has them, the label of its
 * first frame, (stills, and lists that do not say it) its rate, (lists that do not say it) how its sound tracks are
 * read, or (one file) what its pictures are taken for, null for what the file says.
 */
export const timelinePatchSchema = z.object({
  name: name.optional(),
  cuts: filePathSchema.optional(),
  rate: z
    .string()
    .transform((text, c) => parseRate(text) ?? (c.addIssue('this is no rate'), z.NEVER))
    .optional(),
  start: z.string().max(20).optional(),
  scan: scanSchema.nullable().optional(),
  soundTracks: z.enum(soundTrackReadings).optional(),
  cutsOffset: z.number().int().min(-100_000).max(100_000).optional(),
})

/** Looks for media again: with files chosen for sources, with a folder to look into first, or as before. */
export const relinkSchema = z.object({
  files: z.record(z.string().max(8192), filePathSchema).optional(),
  folder: z.object({ root: z.string(), path: z.string().max(4096) }).optional(),
})

const frames = z.number().int().min(0)
const regionSchema = z
  .object({
    id: z.string().min(1),
    name: z.string().max(400),
    in: frames,
    out: frames,
    metadata: z
      .record(z.string().min(1).max(100), z.string().max(4000))
      .refine((m) => Object.keys(m).length <= 100, 'a region has at most 100 fields of metadata'),
    kind: z.enum(kindNames).optional(),
    from: z.object({ timelineId: z.string().max(100), regionId: z.string().max(400) }).optional(),
    looked: z.object({ in: frames, out: frames }).optional(),
  })
  .refine((r) => r.out > r.in, 'a region ends after it begins')
const acceptanceSchema = z.object({
  id: z.string().min(1).max(4000),
  reason: z.string().trim().min(1).max(1000),
  initials: z.string().trim().min(1).max(20),
  text: z.string().max(4000).optional(),
  ends: z
    .array(z.object({ id: z.string().min(1), in: frames, out: frames }))
    .max(100)
    .optional(),
})
const markerSchema = z.object({ id: z.string().min(1), at: frames, name: z.string().max(400) })

/** A whole split, made from a version of it. */
export const splitPutSchema = z.object({
  version: z.number().int(),
  split: z.object({
    regions: z.array(regionSchema).max(20_000),
    markers: z.array(markerSchema).max(20_000),
    accepted: z.array(acceptanceSchema).max(20_000).optional(),
  }),
})

/** What changed of a split since a version of it. The same patch sent again changes nothing more. */
export const splitPatchSchema = z.object({
  version: z.number().int(),
  patch: z.object({
    regions: z.array(regionSchema).max(20_000),
    markers: z.array(markerSchema).max(20_000),
    accepted: z.array(acceptanceSchema).max(20_000).optional(),
    removed: z.array(z.string()).max(60_000),
  }),
})

/** What changed in a timeline against the version before it. */
export interface VersionChanges {
  /** The name of that version. */
  readonly against: string
  readonly changes: readonly Change[]
}

/** How far the background pass over a timeline's media has come. */
export interface AnalysisState {
  readonly pictures: PictureFacts | null
  /** Without what only readings of regions need. */
  readonly sound: Omit<SoundAnalysis, 'shape' | 'damage' | 'closed'> | null
  /** 0…1. */
  readonly progress: number
}

/** How loud sound is, channel by channel. */
export interface SoundLevels {
  readonly channels: number
  /** How many of `peaks` there are a second: as many as frames, or of sound alone a hundred. */
  readonly rate: Rate
  /** The number of the first of them, from the timeline's start. */
  readonly first: number
  /** In order, then by channel: true peak, linear. */
  readonly peaks: readonly (readonly number[])[]
}

/** A timeline as the stations show it: its assembly stays behind, its sources say how they are now. */
export interface ShownTimeline extends Omit<SplitTimeline, 'linking'> {
  readonly assembled: boolean
  readonly sources: readonly Source[]
  readonly mediaProblem: Problem | null
  readonly analysis: AnalysisState
  /** The cuts of its list against those found in its pictures, once they are known. */
  readonly comparison: CutComparison | null
}

/** Which pictures of a timeline are which of an older one, or how far looking for them is. */
export interface Likeness {
  /** `waiting`: one of them has not been looked through yet. */
  readonly state: 'waiting' | 'working' | 'ready' | 'failed'
  /** How much is done, 0 … 1. */
  readonly share: number
  readonly same: SamePictures | null
  readonly problem: Problem | null
}
