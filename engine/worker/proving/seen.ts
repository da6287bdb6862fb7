import { partsMeter, type PictureFacts } from '../../../core/analysis/pictures'
import { tracer } from '../../../core/analysis/trace'
import { headIn } from '../../../core/deliverable/sheet'
import { proofSpread } from '../../../core/deliverable/spread'
import type { PictureSource } from '../../../core/codec/codec'
import { accepting } from '../../../core/codec/damage'
import { lumaWeightsOf } from '../../../core/media/colour'
import type { Media } from '../../../core/media/media'
import { isMade, leadOf, placed, sectionAt, timelineSections } from '../../../core/lineup/lineup'
import { shareOther } from '../../../core/picture/difference'
import { lookDifference, lookOf, type Look } from '../../../core/picture/look'
import type { Placed } from '../../../core/lineup/section'
import type { Picture } from '../../../core/picture/picture'
import { fail } from '../../../core/problem'
import { fileBase } from '../../../core/recipe/output'
import { recipeKind } from '../../../core/recipe/registry'
import type { Frames } from '../../../core/time/rate'
import type { MediaFileOpened } from '../../storage/mediafile'
import { checkUnits, placeOfFrame, unitChecker } from '../making/coded'
import type { DeliverableStep } from '../context'
import { compareEnd } from './ends'
import { lookedAt, looksOf, type HeldPictures } from '../making/looks'

/**
 * The most that a picture may differ from what was encoded, in 8-bit steps: seen small, over all of it, and of masters
 * in any part. White noise in H.264 of class 100 or 50 comes to 2 and 9, lines of two samples to 2.3 and 9. What a part
 * of a still is off by may lie in R′, G′ or B′ below black or above white, which it has no codes for.
 */
const mostDifference = 6
const mostInPart = 32

/**
 * Of pictures that are made: from how many 8-bit steps on a sample is another one, and the share of samples that may
 * be. A clock that is a second off differs in little.
 */
const otherFrom = 16
const mostOff = 1 / 10_000

/** What was seen of a file's pictures. */
export interface Seen {
  readonly decoded: Frames
  /** Of all pictures; null when only some were decoded, and nothing was known of the others. */
  readonly content: PictureFacts | null
  /** The ends of the file; of one in parts, as far off as the worst of their ends is. */
  readonly first: SeenEnd
  readonly last: SeenEnd
}

type SeenEnd = Awaited<ReturnType<typeof compareEnd>> & { readonly picture: Picture }

/**
 * Decodes the pictures of a file: all of them, or where that was asked for and what was encoded is known, the ends, the
 * joints of segments and some between. Those at the ends are held against the timeline's, all that were looked at
 * against what was encoded, and what is not of the timeline against what was made. Of pictures that were taken from an
 * earlier file it is `known` what was found in them: coded byte by byte as they were, they are not decoded again for
 * that.
 */
export async function see(
  step: DeliverableStep,
  written: MediaFileOpened,
  coded: HeldPictures | null,
  known: PictureFacts | null,
): Promise<Seen> {
  const { item } = step
  const media = written.media!
  const pictures = picturesIn(written, step)
  const lookAt = coded ? looksOf(step.folder, coded.looks) : () => null
  const looked = new Set(coded ? lookedAt(item) : [])
  const whole = !coded || (known === null && proofSpread(item.recipe, item.spec) === 0)
  const sums = coded?.sums
  if (sums !== undefined && !whole) await checkUnits(step, media, sums)
  // each is decoded as soon as it was read to be summed: it comes from the disk once
  const checkUnit = sums !== undefined && whole ? await unitChecker(step, media, sums) : null
  await checkUnit?.(0)
  const v = written.info.video[0]!
  const meters = whole ? partsMeter({ ...v, rate: fileBase(item).rate }) : null
  let decoded = 0
  const sections = placed(item.output)
  const lead = leadOf(item.output)
  const begin = lead + (headIn(item)?.programme ?? 0)
  const check = madeChecker(step)
  const { take, pause } = tracer(lumaWeightsOf(v))
  const parts = timelineSections(item.output)
  const starts = new Set(parts.map((s) => s.at))
  const ends = new Map<Frames, SeenEnd | null>(parts.flatMap((s) => [s.at, s.at + s.frames - 1]).map((n) => [n, null]))
  const some = whole ? [] : inOrder([...looked, ...ends.keys(), ...madeFrames(sections)])
  for await (const { frame, picture } of whole ? all(step, pictures) : chosen(pictures, media, some)) {
    decoded++
    // before the next one is asked for, so that what is damaged is told by its number
    if (decoded < item.output.frames) await checkUnit?.(decoded)
    if (isMade(sectionAt(sections, frame))) {
      check(frame, picture)
      pause()
      step.progress(0)
      continue
    }
    const look = await lookAt(frame)
    if (!look && looked.has(frame)) failLooks()
    if (look) checkLook(step, frame, look, picture)
    if (meters) {
      const trace = take(picture)
      if (frame === begin || (frame > begin && starts.has(frame))) meters.begin(frame - begin)
      if (frame >= begin) meters.feed(trace)
    }
    if (ends.has(frame)) {
      const { from, at } = sectionAt(parts, frame) as (typeof parts)[number]
      const own = item.region.in + from + (frame - at) * (item.output.perFrame ?? 1)
      ends.set(frame, { picture, ...(await compareEnd(step, picture, own, frame)) })
    }
    step.progress(frame - lead)
  }
  const seenEnd = (n: Frames) =>
    ends.get(n) ??
    fail('prove.frames', 'A picture of the file was not read back.', placeOfFrame(step, n), 'Run it again.')
  return {
    decoded,
    content: meters?.result() ?? known,
    first: worst(parts.map((s) => seenEnd(s.at))),
    last: worst([...parts].reverse().map((s) => seenEnd(s.at + s.frames - 1))),
  }
}

const inOrder = (frames: readonly Frames[]) => [...new Set(frames)].sort((a, b) => a - b)

/** Frames that are not of the timeline. */
const madeFrames = (sections: readonly Placed[]) =>
  sections.filter(isMade).flatMap((s) => Array.from({ length: s.frames }, (_, i) => s.at + i))

/** The first of several ends, which differs as much and is off as far as the worst of them. */
function worst(ends: readonly SeenEnd[]): SeenEnd {
  const difference = Math.max(...ends.map((e) => e.end.difference))
  const shift = ends.find((e) => e.end.shift !== 0)?.end.shift ?? 0
  return { ...ends[0]!, end: { difference, shift } }
}

/** The pictures of a file; what was copied untouched has in it what of its source cannot be decoded. */
export function picturesIn(written: MediaFileOpened, { item, codecs }: DeliverableStep): PictureSource {
  const pictures = written.pictures(codecs)
  const { damaged, recipe, region } = item
  if (!damaged || !recipeKind(recipe).copies) return pictures
  const inFile = damaged.map((r) => ({ in: r.in - region.in, out: r.out - region.in }))
  return accepting(pictures, inFile, written.info.video[0]!)
}

/** Holds pictures that are not of the timeline against what was made. */
function madeChecker(step: DeliverableStep): (n: Frames, picture: Picture) => void {
  // one that stays needs no second look
  let seen: readonly [Picture, Picture] | null = null
  return (n, picture) => {
    const own = step.source.made(n)
    if (seen?.[0] === own && seen[1] === picture) return
    const share = shareOther(own, picture, otherFrom)
    if (share > mostOff)
      fail(
        'prove.picture',
        'A picture of the line-up, or of a break, is not what was made: ' +
          `${(share * 100).toFixed(2)} % of its samples are others.`,
        placeOfFrame(step, n),
        'Run it again; if it happens again, report it with the run sheet.',
      )
    seen = [own, picture]
  }
}

function failLooks(): never {
  fail(
    'prove.looks',
    'What was kept of the pictures before they were encoded is not whole.',
    undefined,
    'Run it again.',
  )
}

function checkLook(step: DeliverableStep, frame: Frames, look: Look, picture: Picture): void {
  const { mean, largest } = lookDifference(look, lookOf(picture))
  const { recipe, output } = step.item
  // what a bit rate leaves of a viewing copy is its operator's choice, as far as it is the same picture
  const isMaster = !recipeKind(recipe).settings.includes('proofSpread') && output.container !== 'stills'
  const refuse = (what: string, is: number, most: number) =>
    fail(
      'prove.picture',
      `${what} of the file is not what was encoded (difference ${is.toFixed(1)}; at most ${most}).`,
      placeOfFrame(step, frame),
      (isMaster ? 'Run' : 'Use a higher bit rate, or run') +
        ' it again; if it happens again, report it with the run sheet.',
    )
  if (mean > mostDifference) refuse('A picture', mean, mostDifference)
  if (isMaster && largest > mostInPart) refuse('A part of a picture', largest, mostInPart)
}

const all = (step: DeliverableStep, pictures: PictureSource) => pictures.read({ in: 0, out: step.item.output.frames })

/** Chosen frames in order; those that are decoded from the same sync sample at one go. */
export async function* chosen(pictures: PictureSource, media: Media, frames: readonly Frames[]) {
  const track = media.video[0]!
  const begin = (frame: Frames) => track.syncBefore(track.sampleOfFrame(frame))
  const wanted = new Set(frames)
  for (let i = 0; i < frames.length;) {
    let end = i + 1
    while (end < frames.length && begin(frames[end]!) === begin(frames[i]!)) end++
    for await (const p of pictures.read({ in: frames[i]!, out: frames[end - 1]! + 1 })) if (wanted.has(p.frame)) yield p
    i = end
  }
}
