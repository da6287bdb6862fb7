import type { PictureFacts } from '../../../core/analysis/pictures'
import { printOf, Prints } from '../../../core/analysis/prints'
import { samePictures, type PrintedReel, type SamePictures } from '../../../core/analysis/samepictures'
import { fail } from '../../../core/problem'
import type { Frames } from '../../../core/time/rate'
import type { FrozenAssembly } from '../../../core/timeline/assembly/assembly'
import { factKeys } from '../../store/facts'
import type { BackgroundPayload, BackgroundStep } from '../background'
import { tracesOf, withSource } from './analysepictures'

/** The prints of a timeline's pictures, and its cuts; what was seen of them is kept in the cache. */
function printedReel(
  step: BackgroundStep,
  source: BackgroundPayload['source'],
  frames: Frames,
  progress: (done: Frames) => void,
): Promise<PrintedReel> {
  const known = async (key: string) => (await step.facts.read([key])).get(key)
  return known(factKeys.pictures(source.fingerprint)).then(async (facts) => {
    const { cuts } = (facts ?? {}) as Partial<PictureFacts>
    if (!cuts) fail('pictures.unseen', 'The pictures have not been looked through yet.', source.path)
    const assembly = source.assembled ? await known(factKeys.assembly(source.fingerprint)) : null
    const ref = { ...source, assembly: assembly as FrozenAssembly | null }
    const prints = new Prints(frames)
    await withSource(step, ref, null, async (opened) => {
      let n = 0
      for await (const t of tracesOf({ ...step, progress }, ref, opened, { in: 0, out: frames }))
        prints.set(n++, printOf(t))
    })
    return { prints, cuts: cuts.map((c) => c.at) }
  })
}

/** Which pictures of a timeline are which of an older one, told by looking at them. */
export async function comparePictures(step: BackgroundStep): Promise<SamePictures> {
  const { source, range, against } = step.payload
  const { older, frames } = against!
  const was = await printedReel(step, older, frames, (n) => step.progress(n))
  const now = await printedReel(step, source, range!.out, (n) => step.progress(frames + n))
  return samePictures(was, now)
}
