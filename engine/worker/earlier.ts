import { readExactly } from '../../core/bytes'
import type { VideoTrack } from '../../core/media/media'
import { earlierKey } from '../../core/job/taking'
import { fail } from '../../core/problem'
import type { Frames } from '../../core/time/rate'
import { log } from '../log'
import { isAsProven } from '../storage/delivered'
import { openMediaFile } from '../storage/mediafile'
import type { DeliverableStep } from './context'

/** Whether an earlier file was found to be what was proven. */
interface Checked {
  readonly whole: boolean
}

/** Holds the file that pictures are to be taken from against its sums; one that is not it any more is left alone. */
export async function checkEarlier({ item, storage, progress }: DeliverableStep): Promise<Checked> {
  const { root, path, sums } = item.earlier!
  if (storage.away(root)) return { whole: false }
  const full = storage.resolve(root, path)
  const whole = await isAsProven(full, sums, () => progress(0))
  if (!whole) log().warn({ deliverable: item.id, earlier: path }, 'an earlier file is not what was proven: made anew')
  return { whole }
}

/** The file that pictures were taken from; null where they were made. */
export function takenFile({ item, needed }: DeliverableStep): string | null {
  return (needed.get(earlierKey) as Checked | undefined)?.whole ? item.earlier!.path : null
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
  const { item, storage } = step
  const { earlier, output } = item
  if (!earlier || takenFile(step) === null) return null
  const opened = await openMediaFile(storage.resolve(earlier.root, earlier.path), earlier.path)
  const track = opened.media?.video[0]
  if (!track || track.sampleCount !== output.frames) {
    await opened.close()
    fail(
      'earlier.pictures',
      `The earlier file has ${track?.sampleCount ?? 0} coded pictures; ${output.frames} were looked for.`,
      earlier.path,
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
