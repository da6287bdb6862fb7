import { contentMeter } from '../../../core/analysis/content'
import { levelMeter } from '../../../core/analysis/levels'
import { pictureMeters } from '../../../core/analysis/pictures'
import { packTrace, traceOf, traceSize, unpackTrace, type Trace } from '../../../core/analysis/trace'
import type { PictureFacts } from '../../../core/spec/reading'
import { pieces, type FrameRange } from '../../../core/time/range'
import { nominalRate, type Frames } from '../../../core/time/rate'
import { trimAssembly } from '../../../core/timeline/assemble'
import { frameKept, frameWriter, previewWidth, readTraces, segmentLength } from '../../storage/framestore'
import { openSource, type OpenSource, type SourcePlace } from '../source'
import type { TaskContext } from '../context'
import { jpegOf } from '../stills'

// The pictures of a timeline, seen once: what is kept of every frame, and what it says of the whole and of regions.

/** Opens what a range of a timeline needs. */
export async function withSource<T>(
  context: TaskContext,
  place: SourcePlace,
  range: FrameRange | null,
  use: (source: OpenSource) => Promise<T>,
): Promise<T> {
  const source = await openSource(
    context.roots,
    context.codecs,
    place.assembly && range ? { ...place, assembly: trimAssembly(place.assembly, range) } : place,
  )
  try {
    return await use(source)
  } finally {
    await source.close()
  }
}

/** Frames of a range that have not been seen yet, in stretches. */
async function unseen(context: TaskContext, source: OpenSource, range: FrameRange): Promise<FrameRange[]> {
  const out: { in: Frames; out: Frames }[] = []
  for (let n = range.in; n < range.out; n++) {
    if (await frameKept(context.folders.cache, source.origin(n))) continue
    const last = out.at(-1)
    if (last?.out === n) last.out++
    else out.push({ in: n, out: n + 1 })
  }
  return out
}

/**
 * One decode of what has not been seen of a segment: a small picture of every frame, and its trace, from which all
 * measures are read.
 */
export function lookAtSegment(context: TaskContext, place: SourcePlace, range: FrameRange): Promise<true> {
  return withSource(context, place, range, async (source): Promise<true> => {
    const writer = frameWriter(context.folders.cache)
    // pictures are compressed on other threads; a few may be under way at once
    const pending: Promise<void>[] = []
    try {
      for (const stretch of await unseen(context, source, range)) {
        for await (const { frame, picture } of source.pictures().read(stretch)) {
          const trace = packTrace(traceOf(picture))
          pending.push(jpegOf(picture, previewWidth).then((jpeg) => writer.add(source.origin(frame), trace, jpeg)))
          if (pending.length >= 4) await pending.shift()
          await context.progress(frame + 1 - range.in)
        }
      }
      await Promise.all(pending)
      return true
    } finally {
      await Promise.allSettled(pending)
      await writer.close()
    }
  })
}

/** The traces of a range, in order. What is gone from the cache is looked at again. */
async function* tracesOf(
  context: TaskContext,
  place: SourcePlace,
  source: OpenSource,
  range: FrameRange,
): AsyncGenerator<Trace> {
  for (const part of pieces(range, segmentLength)) {
    if ((await unseen(context, source, part)).length) await lookAtSegment(context, place, part)
    for (let n = part.in; n < part.out;) {
      const first = source.origin(n)
      let count = 1
      for (; n + count < part.out && count < 64; count++) {
        const next = source.origin(n + count)
        if (next.content !== first.content || next.frame !== first.frame + count) break
      }
      const bytes = (await readTraces(context.folders.cache, first, count))!
      for (let i = 0; i < count; i++) yield unpackTrace(bytes.subarray(i * traceSize, (i + 1) * traceSize))
      n += count
    }
    await context.progress(part.out - range.in)
  }
}

/** What all traces say: black, still and flashing stretches, cuts, levels, bars. */
export function sumUpPictures(context: TaskContext, place: SourcePlace, range: FrameRange): Promise<PictureFacts> {
  return withSource(context, place, null, async (source) => {
    const meters = pictureMeters(source.info.video[0]!)
    for await (const t of tracesOf(context, place, source, range)) meters.feed(t)
    return meters.result()
  })
}

/** What the traces of a region say of it alone, in its own frames. */
export function measurePictures(context: TaskContext, place: SourcePlace, range: FrameRange): Promise<PictureFacts> {
  return withSource(context, place, range, async (source) => {
    const v = source.info.video[0]!
    const content = contentMeter({ rate: v.rate, shortestFreeze: nominalRate(v.rate) })
    const levels = levelMeter(v.width, v.height)
    for await (const t of tracesOf(context, place, source, range)) {
      content.feed(t)
      levels.feed(t)
    }
    return { ...content.result(), levels: levels.result() }
  })
}
