import { fail } from '../../core/problem'
import type { SplitTimeline } from '../../core/split/timeline'
import { asksSoundTracks, type SoundTracks } from '../../core/timeline/model'
import { linkedAgain, type Linked } from './linking'
import type { MediaIndex } from './mediaindex'

/** A list whose sound tracks are read another way, put together anew of the files that it knows. */
export async function readingTracks(
  index: MediaIndex,
  t: SplitTimeline,
  soundTracks: SoundTracks,
): Promise<Linked & Pick<SplitTimeline, 'model'>> {
  if (!t.linking || !asksSoundTracks(t.model))
    fail(
      'timeline.sound-tracks',
      t.linking
        ? 'The channels of this list’s sound tracks are told by the list.'
        : 'This timeline is one flattened file, whose channels are told by the file.',
      t.name,
      'It can be said of a list with several sound tracks that name no channels.',
    )
  const { soundTracks: _before, ...own } = t.model
  const model = soundTracks === 'each' ? own : { ...own, soundTracks }
  return { ...(await linkedAgain(index, { ...t, model }, t.linking)), model }
}
