import { mkdtemp, rename, rm } from 'node:fs/promises'
import path from 'node:path'
import type { PictureSource } from '../../../core/codec/codec'
import type { FrozenDeliverable } from '../../../core/deliverable/sheet'
import type { TriedPictures } from '../../../core/deliverable/tryout'
import { stepKind } from '../../../core/job/steps'
import { lumaWeights } from '../../../core/media/colour'
import type { Fingerprint } from '../../../core/media/fingerprint'
import type { VideoTrack } from '../../../core/media/media'
import { likenessOf } from '../../../core/picture/likeness'
import { fail } from '../../../core/problem'
import { outputColour } from '../../../core/recipe/output'
import type { Frames, Seconds } from '../../../core/time/rate'
import { fingerprintOf } from '../../storage/fingerprint'
import { openMediaFile } from '../../storage/mediafile'
import { tryoutFile, tryoutFolder } from '../../storage/tryouts'
import type { BackgroundStep } from '../background'
import { deliverableSource, type DeliverableSource, type DeliverableStep } from '../context'
import { deliverableSteps, runnerOf } from './registry'

/** What came of a stretch that was made with settings to be tried. */
export interface Tried {
  /** Its file, in the cache. */
  readonly file: string
  readonly fingerprint: Fingerprint
  readonly pictures: TriedPictures
  /** Of making it, its sound included. */
  readonly seconds: Seconds
}

/** Times its frames are gone through: made, and held against what was encoded. */
export const passesOfTryout = 2

/** Makes a stretch as it would be delivered, by the steps of its recipe, and holds it against what was encoded. */
export async function makeTryout(step: BackgroundStep): Promise<Tried> {
  const { cache, payload, sources } = step
  const item = payload.item!
  const folder = await mkdtemp(tryoutFolder(cache))
  try {
    const table = item.recipe.table === null ? null : await step.table(item.recipe.table)
    const source = deliverableSource(
      item,
      await sources.get({ ...item.source, assembly: item.assembly ?? null }),
      table,
    )
    const begun = performance.now()
    const made = await makeFile(step, item, source, folder)
    const seconds = (performance.now() - begun) / 1000
    const pictures = await compare(step, item, source, made)
    await step.hold()
    const file = tryoutFile(item.id, path.extname(item.target.path))
    await rename(made, path.join(cache, file))
    return { file, fingerprint: await fingerprintOf(path.join(cache, file)), pictures, seconds }
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

/** Does the steps that make a file one after the other; gives its path. */
async function makeFile(
  step: BackgroundStep,
  item: FrozenDeliverable,
  source: DeliverableSource,
  folder: string,
): Promise<string> {
  const results = new Map<string, unknown>()
  let done: Frames = 0
  for (const { key, kind, range, needs } of item.steps) {
    if (stepKind(kind).proof) break
    const own: DeliverableStep = {
      ...step,
      ...{ item, range, source, folder },
      claim: { ...step.claim, key, kind, takenOver: false },
      needed: new Map(needs.map((n) => [n, results.get(n)])),
      progress: (n) => step.progress(stepKind(kind).pictures ? done + n : done),
    }
    results.set(key, await runnerOf(deliverableSteps, kind)(own))
    if (stepKind(kind).pictures) done += range.out - range.in
  }
  const { file } = [...results.values()].at(-1) as { readonly file: string }
  return path.join(folder, file)
}

/** Every picture of a file held against the one that was encoded. */
async function compare(
  step: BackgroundStep,
  item: FrozenDeliverable,
  source: DeliverableSource,
  file: string,
): Promise<TriedPictures> {
  const colour = outputColour(item.recipe, source.info.video[0])
  const opened = await openMediaFile(file, item.target.path, lumaWeights(colour.matrix))
  try {
    const track = opened.media!.video[0]!
    const { frames } = item.output
    if (track.info.frames !== frames)
      fail('tryout.frames', `The file has ${track.info.frames} pictures, not ${frames}.`, item.target.path)
    const out = { bytes: sizesOf(track, frames), errors: [] as [number, number, number][], similarity: [] as number[] }
    for await (const [n, own, written] of inStep(item, source, opened.pictures(step.codecs))) {
      const { errors, ssim } = likenessOf(source.render([own], n), written)
      out.errors.push([...errors])
      out.similarity.push(ssim)
      step.progress(frames + n)
    }
    return out
  } finally {
    await opened.close()
  }
}

/** Bytes of each picture, in order of time. */
const sizesOf = (track: VideoTrack, frames: Frames) =>
  Array.from({ length: frames }, (_, n) => track.sample(track.sampleOfFrame(n)).size)

/** Pictures of the timeline and of the file, in step. */
async function* inStep({ region, output }: FrozenDeliverable, source: DeliverableSource, written: PictureSource) {
  const own = source.pictures().read({ in: region.in, out: region.out })[Symbol.asyncIterator]()
  try {
    for await (const { frame, picture } of written.read({ in: 0, out: output.frames })) {
      const next = await own.next()
      if (next.done) fail('tryout.frames', 'The timeline gave fewer pictures than the file has.', output.start.label)
      yield [frame, next.value.picture, picture] as const
    }
  } finally {
    await own.return?.(undefined)
  }
}
