import { readThrough } from '../../../core/codec/damage'
import { pictureMeters } from '../../../core/analysis/pictures'
import { lumaWeightsOf } from '../../../core/media/colour'
import { packTrace, tracer, traceSize, unpackTrace, type Trace } from '../../../core/analysis/trace'
import type { PictureFacts } from '../../../core/analysis/pictures'
import { pieces, type FrameRange } from '../../../core/time/range'
import type { Frames } from '../../../core/time/rate'
import { trimAssembly } from '../../../core/timeline/assembly/assembly'
import { factKeys } from '../../store/facts'
import { frameKept, frameWriter, previewWidth, readTraces, segmentLength } from '../../storage/framestore'
import type { StepContext } from '../context'
import { openSource, type OpenSource, type SourceRef } from '../sources/source'
import { jpegOf } from '../stills'
import { backgroundOffer, type BackgroundPayload, type BackgroundStep } from '../background'

// The pictures of a timeline, seen once: what is kept of every frame, and what it says of the whole.

/** Opens what a range of a timeline needs. */
export async function withSource<T>(
  context: StepContext,
  ref: SourceRef,
  range: FrameRange | null,
  use: (source: OpenSource) => Promise<T>,
): Promise<T> {
  const source = await openSource(
    context.storage,
    context.codecs,
    ref.assembly && range ? { ...ref, assembly: trimAssembly(ref.assembly, range) } : ref,
  )
  try {
    return await use(source)
  } finally {
    await source.close()
  }
}

/** Frames of a range that have not been seen yet, in stretches. */
async function unseen(context: StepContext, source: OpenSource, range: FrameRange): Promise<FrameRange[]> {
  const out: { in: Frames; out: Frames }[] = []
  for (let n = range.in; n < range.out; n++) {
    if (await frameKept(context.cache, source.origin(n))) continue
    const last = out.at(-1)
    if (last?.out === n) last.out++
    else out.push({ in: n, out: n + 1 })
  }
  return out
}

/** Whether a frame of a timeline follows the one before it in the file that both come from. */
function follows(source: OpenSource, frame: Frames): boolean {
  if (frame === 0) return false
  const [before, own] = [source.origin(frame - 1), source.origin(frame)]
  return before.content === own.content && before.frame === own.frame - 1
}

/**
 * One decode of what has not been seen of a segment: a small picture of every frame, and its trace, from which all
 * measures are read.
 */
function seeSegment(context: StepContext, ref: SourceRef, range: FrameRange): Promise<true> {
  return withSource(context, ref, range, async (source): Promise<true> => {
    const writer = frameWriter(context.cache)
    // pictures are compressed on other threads; a few may be under way at once
    const pending: Promise<void>[] = []
    try {
      const v = source.info.video[0]!
      const weights = lumaWeightsOf(v)
      const { take, pause } = tracer(weights)
      for (const stretch of await unseen(context, source, range)) {
        pause()
        for await (const { frame, picture, damaged } of readThrough(source.pictures(), stretch, v)) {
          if (!follows(source, frame)) pause()
          const trace = packTrace(take(picture, damaged !== null))
          const small = jpegOf(picture, previewWidth, weights)
          pending.push(small.then((jpeg) => writer.add(source.origin(frame), trace, jpeg)))
          if (pending.length >= 4) await pending.shift()
          context.progress(frame + 1 - range.in)
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
export async function* tracesOf(
  context: StepContext,
  ref: SourceRef,
  source: OpenSource,
  range: FrameRange,
): AsyncGenerator<Trace> {
  for (const part of pieces(range, segmentLength)) {
    if ((await unseen(context, source, part)).length) await seeSegment(context, ref, part)
    for (let n = part.in; n < part.out;) {
      const first = source.origin(n)
      let count = 1
      for (; n + count < part.out && count < 64; count++) {
        const next = source.origin(n + count)
        if (next.content !== first.content || next.frame !== first.frame + count) break
      }
      const bytes = (await readTraces(context.cache, first, count))!
      for (let i = 0; i < count; i++) yield unpackTrace(bytes.subarray(i * traceSize, (i + 1) * traceSize))
      n += count
    }
    context.progress(part.out - range.in)
  }
}

/** Sees what has not been seen of a segment of a pass. */
export function analyseSegment(step: BackgroundStep): Promise<true> {
  return seeSegment(step, step.ref, step.payload.range!)
}

/** The last segment of a pass calls for the merge. */
export async function mergeWhenComplete(context: StepContext, p: BackgroundPayload): Promise<void> {
  const { fingerprint } = p.source
  const keys = Array.from({ length: Math.ceil(p.frames! / segmentLength) }, (_, k) => factKeys.segment(fingerprint, k))
  if ((await context.facts.read(keys)).size < keys.length) return
  const fact = factKeys.pictures(fingerprint)
  const payload = { fact, source: p.source, range: { in: 0, out: p.frames! } } satisfies BackgroundPayload
  await context.queue.offer([backgroundOffer('merge-segments', payload, p.frames!)])
}

/** What all traces say: black, still and flashing stretches, cuts, levels, bars. */
export function mergeSegments(step: BackgroundStep): Promise<PictureFacts> {
  return withSource(step, step.ref, null, async (source) => {
    const meters = pictureMeters(source.info.video[0]!)
    for await (const t of tracesOf(step, step.ref, source, step.payload.range!)) meters.feed(t)
    return meters.result()
  })
}
