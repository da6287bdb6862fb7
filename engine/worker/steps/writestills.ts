import { mkdir, rename } from 'node:fs/promises'
import path from 'node:path'
import { filesOf } from '../../../core/files/fileset'
import { lumaWeights } from '../../../core/media/colour'
import { hasFields } from '../../../core/media/scan'
import { rgbOf } from '../../../core/picture/rgb'
import { fileBase, outputColour } from '../../../core/recipe/output'
import { stillWriting } from '../../../core/stills/registry'
import { formatTimecode } from '../../../core/time/timecode'
import { fileSink } from '../../storage/disk'
import { stillLibrary } from '../../storage/stilllibrary'
import { claimedFile, type DeliverableStep } from '../context'
import { picturesOf } from '../frames'
import { unitSummer } from '../looks'
import type { MadeStills } from '../stillfiles'

/** Where stills of a deliverable stand until they are proven, below its scratch folder. */
const folderName = 'stills'

/** Writes stills: each is whole before it bears its name. */
export async function writeStills(step: DeliverableStep): Promise<MadeStills> {
  const { item, source, folder } = step
  const { output, timeline, recipe } = item
  const base = fileBase(item)
  const [, writing] = stillWriting(recipe.stillFormat)
  const target = path.join(folderName, path.basename(item.target.path))
  const names = filesOf(target) ?? [target]
  const colour = outputColour(recipe, source.info.video[0]?.colour ?? null)
  const scan = source.info.video[0]?.scan ?? 'progressive'
  const weights = lumaWeights(colour.matrix)
  const sum = await unitSummer()
  await mkdir(path.join(folder, folderName), { recursive: true })
  const sums: string[] = []
  for await (const { n, picture } of picturesOf(step)) {
    const name = names[n]!
    const bytes = await writing.write(
      rgbOf(picture, weights),
      {
        ...{ name: path.basename(name), show: timeline.show, date: item.date ?? '', rate: base.rate },
        timecode: formatTimecode(base.start + n, base),
        ...{ position: n, length: output.frames, colour, pixelAspect: output.video!.pixelAspect },
        interlaced: hasFields(scan),
      },
      stillLibrary,
    )
    const part = claimedFile(step, path.basename(name))
    const sink = await fileSink(part)
    try {
      await sink.write(0, bytes)
      await sink.finish()
    } catch (e) {
      await sink.close().catch(() => undefined)
      throw e
    }
    await rename(part, path.join(folder, name))
    sums.push(sum(bytes))
    step.progress(sums.length)
  }
  return { file: target, sums: sums.join('') }
}
