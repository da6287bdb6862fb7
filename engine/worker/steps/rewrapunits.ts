import path from 'node:path'
import { readExactly } from '../../../core/bytes'
import { openSound } from '../../../core/codec/sound'
import { fail } from '../../../core/problem'
import { fileSink } from '../../storage/disk'
import { claimedFile, type DeliverableStep } from '../context'
import { copiedFilms, copiedSamples } from '../making/copied'
import { unitLayout } from '../making/units'

/**
 * Copies a range's essence untouched, picture by picture with its sound, into a new file of pictures that are all of
 * one size.
 */
export async function rewrapUnits(step: DeliverableStep): Promise<{ file: string }> {
  const { item, source } = step
  const parts = copiedFilms(step)
  const size = parts[0]!.media.video[0]!.sample(0).size
  const { units, samplesBefore } = unitLayout(step, size)
  const file = claimedFile(step, 'file')
  const sink = await fileSink(file)
  try {
    await sink.write(0, units.head)
    let n = 0
    for (const { media, range, from } of copiedSamples(step, parts, item.output.audio?.sampleRate ?? 48000)) {
      const track = media.video[0]!
      const sound = item.output.audio ? openSound(media, step.codecs) : null
      const begins = samplesBefore(n)
      for (let frame = range.in; frame < range.out; frame++, n++) {
        const s = track.sample(track.sampleOfFrame(frame))
        if (s.size !== size)
          fail(
            'rewrap.sizes',
            `Frame ${frame} has ${s.size} bytes, others have ${size}.`,
            media.source.name,
            'Use a master, which makes them all of one size.',
          )
        const count = samplesBefore(n + 1) - samplesBefore(n)
        // without a break: of frames by themselves the source may have a sample more or less than the file
        const heard = sound ? await sound.read(from + samplesBefore(n) - begins, count) : []
        const picture = await readExactly(media.source, s.offset, s.size)
        for (const p of units.unit(n, picture, heard, await source.linesOf(n))) await sink.write(p.at, p.bytes)
        step.progress(n + 1)
      }
    }
    await sink.write(units.tail.at, units.tail.bytes)
    await sink.finish()
  } catch (e) {
    await sink.close().catch(() => undefined)
    throw e
  }
  return { file: path.basename(file) }
}
