import { pictureCodec } from '../codec/registry'
import { peakSignalToNoise } from '../picture/likeness'
import { fail } from '../problem'
import type { Output } from '../recipe/output'
import type { Overrides, Recipe } from '../recipe/recipe'
import { recipeKind } from '../recipe/registry'
import type { FrameRange } from '../time/range'
import { framesToSeconds, nominalRate, type Frames, type Rate, type Seconds } from '../time/rate'
import { draftOf, type Draft, type Situation } from './draft'
import { notSent, type DeliverableKey } from './outlet'

/** Seconds that a stretch made with settings to be tried is long at most. */
export const longestTryout: Seconds = 20

/** A stretch of a region for an outlet, and the values that are tried in place of its recipe's. */
export interface TryoutRequest extends DeliverableKey, FrameRange {
  readonly values: Overrides
}

/** Whether settings of a deliverable can be tried: those of one whose pictures are encoded. */
export function canBeTried({ video }: Pick<Output, 'video'>, recipe: Recipe): boolean {
  return !recipeKind(recipe).copies && video !== null && pictureCodec(video.codec)?.encode !== undefined
}

/** The draft of a stretch, as it would be made with the values: without handles, and with nothing in front of it. */
export function tryoutDraft({ timelines, outlets, specs, abilities }: Situation, request: TryoutRequest): Draft {
  const timeline = timelines.find((t) => t.id === request.timelineId)
  const region = timeline?.split.regions.find((r) => r.id === request.regionId)
  const outlet = outlets.find((o) => o.id === request.outletId)
  const spec = specs.find((s) => s.id === outlet?.spec)
  if (!timeline || !region || !outlet || !spec) return notSent()
  const range = { in: Math.max(request.in, region.in), out: Math.min(request.out, region.out, timeline.model.length) }
  const { rate } = timeline.model
  if (range.out <= range.in)
    fail('tryout.outside', 'This stretch lies outside the region.', region.name, 'Choose one within it.')
  if (range.out - range.in > longestTryout * nominalRate(rate))
    fail('tryout.long', `A stretch to be tried is ${longestTryout} s long at most.`, region.name, 'Choose less of it.')
  const { timelineId, regionId, outletId } = request
  const overrides = { ...request.values, handles: 0, lineUp: null }
  const choice = { timelineId, regionId, outletId, chosen: true, overrides, waivers: [] }
  const { markers } = timeline.split
  const draft = draftOf(
    { timeline, markers, region: { ...region, ...range }, number: '', outlet, spec, choice },
    abilities,
  )
  if (draft.output.perFrame)
    fail(
      'tryout.fields',
      'Its fields are made of two frames each: the timeline has no picture that one of them can be held against.',
      outlet.name,
      'Try its other settings with the scan of the source.',
    )
  return canBeTried(draft.output, draft.recipe)
    ? draft
    : fail(
        'tryout.nothing',
        `With “${draft.recipe.name}” no pictures are encoded: there is nothing to compare.`,
        outlet.name,
        'Choose an outlet that gets a master or a viewing copy.',
      )
}

/** What came of a stretch: of each picture of the file, in order of time. */
export interface TriedPictures {
  /** Bytes of its access unit. */
  readonly bytes: readonly number[]
  /** How far it is from what was encoded: see `Likeness`. */
  readonly errors: readonly (readonly [number, number, number])[]
  readonly similarity: readonly number[]
}

/** What is said of a stretch as a whole. */
export interface TriedFigures {
  /** Of its pictures, kbit/s: of all, and of the dearest second. */
  readonly kilobits: number
  readonly dearest: number
  /** Peak signal-to-noise ratio of luma and of chroma, dB; null where there is no difference. */
  readonly luma: number | null
  readonly chroma: number | null
  readonly similarity: number
  /** The picture that is least like what was encoded, from 0, and its ratio of luma. */
  readonly worst: { readonly frame: Frames; readonly luma: number | null }
}

const mean = (values: readonly number[]) => values.reduce((n, v) => n + v, 0) / values.length

export function triedFigures({ bytes, errors, similarity }: TriedPictures, rate: Rate): TriedFigures {
  const kilobits = (list: readonly number[]) =>
    (list.reduce((n, b) => n + b, 0) * 8) / 1000 / framesToSeconds(list.length, rate)
  const second = Math.min(nominalRate(rate), bytes.length)
  const seconds = Array.from({ length: bytes.length - second + 1 }, (_, i) => kilobits(bytes.slice(i, i + second)))
  const frame = errors.reduce((worst, e, i) => (e[0] > errors[worst]![0] ? i : worst), 0)
  return {
    kilobits: kilobits(bytes),
    dearest: Math.max(...seconds),
    luma: peakSignalToNoise(mean(errors.map((e) => e[0]))),
    chroma: peakSignalToNoise(mean(errors.flatMap((e) => [e[1], e[2]]))),
    similarity: mean(similarity),
    worst: { frame, luma: peakSignalToNoise(errors[frame]![0]) },
  }
}
