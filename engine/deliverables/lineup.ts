import { freeze } from '../../core/deliverable/freeze'
import type { JudgedDraft } from '../../core/deliverable/judged'
import { day } from '../../core/deliverable/names'
import { toldOf } from '../../core/deliverable/told'
import { isMade, LineUpPictures, placed, sectionAt } from '../../core/lineup/lineup'
import { shapeOf } from '../../core/media/aspect'
import { luma709 } from '../../core/media/colour'
import { fileBase } from '../../core/recipe/output'
import { fail } from '../../core/problem'
import type { Frames } from '../../core/time/rate'
import { jpegOf } from '../worker/stills'

/** Lines of a picture that is only looked at. */
const lines = 540

/** A picture of the line-up a deliverable will begin with, as JPEG: that of a frame of its file. */
export function lineUpPicture(d: JudgedDraft, n: Frames): Promise<Buffer> {
  const { output, draft } = d
  const v = output.video
  const made = Number.isInteger(n) && n >= 0 && n < output.frames && isMade(sectionAt(placed(output), n))
  if (!v || !made) return fail('lineup.none', `Frame ${n} of this file is not of a line-up.`, d.path)
  const width = Math.round((shapeOf(v) * lines) / 2) * 2
  const told = toldOf(freeze(d, '', day(new Date())))
  const shape = { width, height: lines, chroma: '4:2:2', bitDepth: 8, pixelAspect: 1, weights: luma709 } as const
  return jpegOf(
    new LineUpPictures(output, fileBase({ output, timeline: draft.timeline.model }).rate, shape, told).at(n),
    width,
    luma709,
  )
}
