import { fail } from '../../problem'
import type { FrameRange } from '../../time/range'
import { hasCuts } from '../../timeline/comparecuts'
import { isSoundAlone, type Shot, type Timeline } from '../../timeline/model'
import type { MakeRequest, Needed } from './maker'

// What was found in pictures and sound, for ways to split that go by it: what was not looked through has no answer.

const wait = 'Wait until the background pass has come to its end.'

/** Black stretches of a timeline's pictures. What was not looked through is no picture without black. */
export function blackOf({ timeline, pictures }: MakeRequest): readonly FrameRange[] {
  return (
    pictures?.black ?? fail('split.not-analysed', 'Its pictures have not been looked through yet.', timeline.name, wait)
  )
}

/** Silent stretches of a timeline's sound. */
export function silenceOf({ timeline, sound, mute }: MakeRequest): readonly FrameRange[] {
  if (mute)
    fail(
      'split.no-sound',
      'There is no sound that can be heard here.',
      timeline.name,
      'Choose a way that goes by pictures.',
    )
  return (
    sound?.faults.silence ?? fail('split.not-analysed', 'Its sound has not been listened to yet.', timeline.name, wait)
  )
}

/** What has to be looked through to know the shots of a timeline. */
export const neededForShots = (t: Timeline): readonly Needed[] => (hasCuts(t) || isSoundAlone(t) ? [] : ['pictures'])

/** The shots of a timeline: those of its list, else those between the cuts found in its pictures. */
export function shotsFor({ timeline, shots = [], pictures }: MakeRequest): readonly Shot[] {
  if (pictures === null && neededForShots(timeline).length > 0)
    fail(
      'split.not-analysed',
      'Its list has no cuts, and its pictures have not been looked through yet.',
      timeline.name,
      wait,
    )
  return shots
}
