import { frameInFile } from '../../../core/lineup/lineup'
import { stepKind } from '../../../core/job/steps'
import type { Picture } from '../../../core/picture/picture'
import type { Frames } from '../../../core/time/rate'
import type { DeliverableStep } from '../context'

/** Where in the file a frame of a step's range stands. */
function inFile({ item, claim }: DeliverableStep, frame: Frames): Frames {
  return stepKind(claim.kind).ofFile ? frame : frameInFile(item.output, frame - item.region.in)!
}

/** The frame of the file that a step's first is. */
export const firstInFile = (step: DeliverableStep): Frames => inFile(step, step.range.in)

/** Pictures of a timeline, so many of them together as one frame of a file is made of; `frame` is the first of them. */
export async function* together(
  pictures: AsyncIterable<{ readonly frame: Frames; readonly picture: Picture }>,
  perFrame = 1,
): AsyncGenerator<{ readonly frame: Frames; readonly pictures: readonly Picture[] }> {
  let held: Picture[] = []
  for await (const { frame, picture } of pictures) {
    held.push(picture)
    if (held.length < perFrame) continue
    yield { frame: frame - perFrame + 1, pictures: held }
    held = []
  }
}

/** The pictures of a step's range as they go into the file, each with the frame of the file that it is. */
export async function* picturesOf(
  step: DeliverableStep,
): AsyncGenerator<{ readonly n: Frames; readonly picture: Picture }> {
  const { source, range, claim, item } = step
  if (stepKind(claim.kind).ofFile) {
    for (let n = range.in; n < range.out; n++) yield { n, picture: source.made(n) }
    return
  }
  for await (const { frame, pictures } of together(source.pictures().read(range), item.output.perFrame)) {
    const n = inFile(step, frame)
    yield { n, picture: source.render(pictures, n) }
  }
}
