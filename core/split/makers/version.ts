import { fail } from '../../problem'
import { sameRate } from '../../time/rate'
import { listed } from '../../text'
import { follow } from '../follow'
import type { MakeRequest, SplitMaker } from './maker'

function followed({ timeline, older }: MakeRequest) {
  if (!older) return []
  if (!sameRate(older.timeline.rate, timeline.rate))
    fail(
      'split.rate',
      'The two timelines are at different rates.',
      older.timeline.name,
      'Choose a version at the rate of this one.',
    )
  return follow(older.timeline, timeline, older.split)
}

/** The regions of an older version, where their shots are now. */
export const version: SplitMaker = {
  name: 'version',
  label: 'regions of an older version',
  hint: 'Regions follow their shots, with papers, chapters and outlets; what is in doubt says why.',
  make: (request) =>
    followed(request).flatMap(({ region, range, doubts, chapters }) =>
      range
        ? [
            {
              ...{ name: region.name, ...range, metadata: region.metadata, chapters, follows: region },
              outlets: request.older?.outlets.get(region.id) ?? [],
              ...(doubts.length ? { doubt: listed(doubts) } : {}),
            },
          ]
        : [],
    ),
  lost: (request) =>
    followed(request).flatMap(({ region, range, doubts }) =>
      range ? [] : [{ name: region.name, why: listed(doubts) }],
    ),
}
