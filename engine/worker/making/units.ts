import type { Units } from '../../../core/container/container'
import { containerOf } from '../../../core/container/registry'
import { SampleClock } from '../../../core/lineup/lineup'
import { fileBase } from '../../../core/recipe/output'
import type { DeliverableStep } from '../context'
import { audioEssence, identityBytes, planOf, videoEssence } from './essence'

/**
 * Where everything of a file stands whose pictures are all of one size: it is known before a frame is made, so that
 * segments write straight into their place.
 */
export function unitLayout(
  step: DeliverableStep,
  pictureBytes: number,
): { units: Units; samplesBefore: (n: number) => number } {
  const { item } = step
  const { output, region } = item
  const a = output.audio
  const clock = new SampleClock(output, region, fileBase(item).rate, a?.sampleRate ?? 48000)
  const samplesBefore = (n: number) => clock.before(n)
  const units = containerOf(output.container).units!(output.container, {
    ...planOf(step),
    video: videoEssence(step, null),
    pictureBytes,
    ...(output.structure?.bodies ? { partitionFrames: output.structure.bodies.longest } : {}),
    ...(output.data ? { data: output.data } : {}),
    sound: a ? audioEssence(step, null) : null,
    samplesBefore,
    name: region.name,
    identity: identityBytes(step),
  })
  return { units, samplesBefore }
}
