import { contentEdition, type PictureFacts } from '../../../core/analysis/pictures'
import { readExactly } from '../../../core/bytes'
import { canonical } from '../../../core/canonical'
import { mainFile } from '../../../core/deliverable/proof'
import { headIn } from '../../../core/deliverable/sheet'
import { earlierKey } from '../../../core/job/taking'
import { framesInFile } from '../../../core/lineup/lineup'
import type { VideoTrack } from '../../../core/media/media'
import { fail } from '../../../core/problem'
import type { FrameRange } from '../../../core/time/range'
import type { Frames } from '../../../core/time/rate'
import { log } from '../../log'
import { isAsProven } from '../../storage/delivered'
import { openMediaFile } from '../../storage/mediafile'
import type { DeliverableStep } from '../context'
import { firstInFile, picturesOf } from './frames'
import { lookedAt, looksKept } from './looks'

/** The earlier file, where it was found to be what was proven: below its root. */
interface Checked {
  readonly path: string | null
}

/** Holds the file that pictures are to be taken from against its sums; one that is not it any more is left alone. */
export async function checkEarlier({ item, storage, sheets, progress }: DeliverableStep): Promise<Checked> {
  const { id, root } = item.earlier!
  const noted = await sheets.noted(id)
  if (noted && !storage.away(root)) {
    const { path, proof } = noted
    if (await isAsProven(storage.resolve(root, path), mainFile(proof).sums, () => progress(0))) return { path }
  }
  log().warn({ deliverable: item.id, earlier: item.earlier }, 'an earlier file is not what was proven: made anew')
  return { path: null }
}

/** The file that pictures were taken from; null where they were made. */
export const takenFile = ({ needed }: DeliverableStep): string | null =>
  (needed.get(earlierKey) as Checked | undefined)?.path ?? null

/**
 * What was found in the pictures of the earlier file as it was proven; null where they were made, where an edition
 * looked that found other things, and where the programme began elsewhere in it.
 */
export async function knownContent(step: DeliverableStep): Promise<PictureFacts | null> {
  const { item, sheets } = step
  if (takenFile(step) === null) return null
  const { id } = item.earlier!
  const [before, noted] = [await sheets.frozen(id), await sheets.noted(id)]
  if (!before || noted?.proof.contentEdition !== contentEdition) return null
  return canonical(headIn(before)) === canonical(headIn(item)) ? noted.proof.content : null
}

/** Coded pictures of an earlier file. */
export interface EarlierPictures {
  readonly track: VideoTrack
  /** The coded picture of a frame of the file. */
  unit(n: Frames): Promise<Uint8Array>
  close(): Promise<void>
}

/** Opens the file that a step takes pictures from; null where it was not what was proven: they are made. */
export async function openEarlier(step: DeliverableStep): Promise<EarlierPictures | null> {
  const { earlier, output } = step.item
  const path = takenFile(step)
  if (path === null) return null
  const opened = await openMediaFile(step.storage.resolve(earlier!.root, path), path)
  const track = opened.media?.video[0]
  if (!track || track.sampleCount !== output.frames) {
    await opened.close()
    fail(
      'earlier.pictures',
      `The earlier file has ${track?.sampleCount ?? 0} coded pictures; ${output.frames} were looked for.`,
      path,
      'Run it again: its pictures are made then.',
    )
  }
  return {
    track,
    unit: (n) => {
      const { offset, size } = track.sample(n)
      return readExactly(opened.media!.source, offset, size)
    },
    close: () => opened.close(),
  }
}

/** Frames of the file that a step makes or takes the pictures of. */
export function framesTaken(step: DeliverableStep): FrameRange {
  const first = firstInFile(step)
  return { in: first, out: first + framesInFile(step.item.output, step.range.out - step.range.in) }
}

/**
 * Looks at some of the timeline's pictures that a step takes, as if they were to be encoded; gives the file of looks.
 */
export async function looksAtTimeline(step: DeliverableStep): Promise<string> {
  const { item, range } = step
  const { perFrame = 1 } = item.output
  const own = framesTaken(step)
  const looks = looksKept(step)
  for (const n of lookedAt(item)) {
    if (n < own.in || n >= own.out) continue
    const from = range.in + (n - own.in) * perFrame
    for await (const { picture } of picturesOf({ ...step, range: { in: from, out: from + perFrame } }))
      looks.take(n, picture)
  }
  return looks.save()
}
