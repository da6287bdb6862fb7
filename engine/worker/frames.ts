import { frameInFile } from '../../core/lineup/lineup'
import { stepKind } from '../../core/job/steps'
import type { Picture } from '../../core/picture/picture'
import type { Frames } from '../../core/time/rate'
import type { DeliverableStep } from './context'

/** Where in the file a frame of a step's range stands. */
function inFile({ item, claim }: DeliverableStep, frame: Frames): Frames {
  return stepKind(claim.kind).ofFile ? frame : frameInFile(item.output, frame - item.region.in)!
}

/** The frame of the file that a step's first is. */
export const firstInFile = (step: DeliverableStep): Frames => inFile(step, step.range.in)

/** The pictures of a step's range as they go into the file, each with the frame of the file that it is. */
export async function* picturesOf(
  step: DeliverableStep,
): AsyncGenerator<{ readonly n: Frames; readonly picture: Picture }> {
  const { source, range, claim } = step
  if (stepKind(claim.kind).ofFile) {
    for (let n = range.in; n < range.out; n++) yield { n, picture: source.made(n) }
    return
  }
  for await (const { frame, picture } of source.pictures().read(range)) {
    const n = inFile(step, frame)
    yield { n, picture: source.render(picture, n) }
  }
}
