import { readExactly } from '../../../core/bytes'
import { pictureCodec } from '../../../core/codec/registry'
import type { Media } from '../../../core/media/media'
import { fail } from '../../../core/problem'
import { fileBase } from '../../../core/recipe/output'
import { formatTimecode } from '../../../core/time/timecode'
import type { Frames } from '../../../core/time/rate'
import type { DeliverableStep } from '../context'
import { unitSummer, unsummed } from './looks'

const again = 'Run it again; if it happens again, report it with the run sheet.'

/** Where a frame of a deliverable's file is, for people. */
export function placeOfFrame({ item }: DeliverableStep, frame: Frames): string {
  const base = fileBase(item)
  return `${item.target.path}, ${formatTimecode(base.start + frame, base)}`
}

/**
 * Reads access units of the pictures as they stand in the file, by their number: each is whole by its own structure,
 * begins decoding where it is said to, and is what the encoder gave, or what was taken, by `sums` as they were kept.
 */
export async function unitChecker(
  step: DeliverableStep,
  media: Media,
  sums: string,
): Promise<(i: number) => Promise<void>> {
  const track = media.video[0]!
  const { unitFault } = pictureCodec(track.info.codec)!
  if (track.sampleCount !== sums.length / 8)
    fail(
      'prove.units',
      `The file holds ${track.sampleCount} coded pictures; ${sums.length / 8} were encoded.`,
      step.item.target.path,
      again,
    )
  const sum = await unitSummer()
  return async (i) => {
    const { offset, size, sync } = track.sample(i)
    const unit = await readExactly(media.source, offset, size)
    const asked = sums.slice(i * 8, i * 8 + 8)
    const fault =
      asked !== unsummed && sum(unit) !== asked
        ? 'it is not what was encoded'
        : track.configuration && unitFault?.(unit, sync, track.configuration)
    if (fault)
      fail('prove.unit', `Coded picture ${i + 1} of the file is damaged: ${fault}.`, placeOfFrame(step, i), again)
  }
}

/** Reads all of them. */
export async function checkUnits(step: DeliverableStep, media: Media, sums: string): Promise<void> {
  const check = await unitChecker(step, media, sums)
  for (let i = 0; i < media.video[0]!.sampleCount; i++) {
    await check(i)
    if (i % 100 === 0) step.progress(0)
  }
}
