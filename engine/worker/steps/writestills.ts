import { lumaWeights } from '../../../core/media/colour'
import { hasFields } from '../../../core/media/scan'
import { rgbOf } from '../../../core/picture/rgb'
import { outputColour } from '../../../core/recipe/output'
import { stillWriting } from '../../../core/stills/registry'
import { stillLibrary } from '../../storage/stilllibrary'
import type { DeliverableStep } from '../context'
import { picturesOf } from '../making/frames'
import { looksForProof } from '../making/looks'
import { stillsOf, type MadeStills } from '../making/stillfiles'

/** Makes stills of pictures. */
export async function writeStills(step: DeliverableStep): Promise<MadeStills> {
  const { item, source } = step
  const { output, timeline, recipe } = item
  const [, writing] = stillWriting(recipe.stillFormat)
  const colour = outputColour(recipe, source.info.video[0])
  const scan = source.info.video[0]?.scan ?? 'progressive'
  const weights = lumaWeights(colour.matrix)
  const stills = await stillsOf(step)
  const looks = looksForProof(step)
  for await (const { n, picture } of picturesOf(step)) {
    looks.take(n, picture)
    const told = {
      ...stills.placeOf(n),
      ...{ show: timeline.show, date: item.date ?? '', colour, pixelAspect: output.video!.pixelAspect },
      interlaced: hasFields(scan),
    }
    await stills.keep(n, await writing.write(rgbOf(picture, weights), told, stillLibrary))
  }
  return { ...stills.made(), looks: await looks.save() }
}
