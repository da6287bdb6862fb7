import { fail } from '../../../core/problem'
import type { DeliverableStep } from '../context'
import { checkEarlier } from '../making/earlier'
import { copyStills } from './copystills'
import { encodeInPlace } from './encodeinplace'
import { encodeSegment } from './encodesegment'
import { encodeSound } from './encodesound'
import { join } from './join'
import { prove } from './prove'
import { rewrap } from './rewrap'
import { takeInPlace } from './takeinplace'
import { takeSegment } from './takesegment'
import { writeSound } from './writesound'
import { writeStills } from './writestills'

/** What a kind of step does for a deliverable; what it gives is there for the steps that need it. */
export type DeliverableRunner = (step: DeliverableStep) => Promise<unknown>

/** Steps of deliverables by kind (core/job/steps names them): a new one is its file and its line here. */
export const deliverableSteps: Record<string, DeliverableRunner> = {
  rewrap,
  'line-up': encodeInPlace,
  'encode-in-place': encodeInPlace,
  'encode-segment': encodeSegment,
  'check-earlier': checkEarlier,
  'take-in-place': takeInPlace,
  'take-segment': takeSegment,
  'encode-sound': encodeSound,
  'write-sound': writeSound,
  'write-stills': writeStills,
  'copy-stills': copyStills,
  join,
  prove,
  'prove-spread': prove,
  'prove-taken': prove,
}

/** The runner of a kind; one that is not known is a failure by name, never taken as done. */
export function runnerOf<T>(steps: Readonly<Record<string, T>>, kind: string): T {
  return (
    steps[kind] ??
    fail('step.unknown', `Steps of kind “${kind}” are not known here.`, kind, 'Run it with the edition that made it.')
  )
}
