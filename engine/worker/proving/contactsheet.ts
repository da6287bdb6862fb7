import { pictureCodec } from '../../../core/codec/registry'
import type { Artefact } from '../../../core/deliverable/proof'
import { sheetFrames } from '../../../core/deliverable/spread'
import { aspectValue } from '../../../core/media/aspect'
import { bt709, colourOf, convertible, luma709, lumaWeightsOf } from '../../../core/media/colour'
import { contactSheet, type SheetPicture } from '../../../core/picture/contactsheet'
import { conversionOf, converted } from '../../../core/picture/convert'
import { fieldWork, joinedFields } from '../../../core/picture/fields'
import { fileBase } from '../../../core/recipe/output'
import { plainText } from '../../../core/text'
import { rateLabel } from '../../../core/time/rate'
import { formatLength, formatTimecode } from '../../../core/time/timecode'
import { openMediaFile } from '../../storage/mediafile'
import type { DeliverableStep } from '../context'
import { writeBeside } from './naming'
import { chosen, picturesIn } from './seen'
import { jpegOf } from '../stills'

/** Puts a sheet of a finished file's own pictures beside it, where its recipe asks for one. */
export async function writeContactSheet(step: DeliverableStep, finalPath: string): Promise<Artefact[]> {
  const { item } = step
  const { output, recipe, timeline, region, outlet, target } = item
  const base = fileBase(item)
  if (recipe.contactSheet === 0 || !output.video) return []
  const written = await openMediaFile(step.storage.resolve(target.root, finalPath), finalPath)
  try {
    const v = written.info.video[0]!
    const colour = colourOf(v)
    const conversion = convertible(colour) ? conversionOf(colour, bt709) : null
    const frames = sheetFrames(output, recipe.contactSheet)
    const pictures: SheetPicture[] = []
    for await (const { frame, picture } of chosen(picturesIn(written, step), written.media!, frames)) {
      const label = formatTimecode(base.start + frame, base)
      const whole = fieldWork(v.scan, 'progressive') === 'join' ? joinedFields(picture) : picture
      pictures.push({ picture: conversion ? converted(whole, conversion) : whole, label })
      step.progress(0)
    }
    const codec = pictureCodec(output.video.codec)?.label ?? output.video.codec
    const lines = [
      [timeline.show, outlet.name, formatLength(output.frames, base)],
      [finalPath.split('/').at(-1)!, codec, `${v.width}x${v.height}`, rateLabel(v.rate)],
    ]
    const title = region.name || 'Without a name'
    const sheet = contactSheet(
      plainText(title),
      lines.map((words) => plainText(words.join(' | '))),
      pictures,
      aspectValue(v.pixelAspect),
    )
    const image = await jpegOf(sheet, sheet.width, conversion ? luma709 : lumaWeightsOf(v))
    return [await writeBeside(step, finalPath, '.sheet.jpg', image, 'contact sheet')]
  } finally {
    await written.close()
  }
}
