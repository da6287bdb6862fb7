import { fail } from '../../problem'
import { sameRate } from '../../time/rate'
import { listed } from '../../text'
import { follow, type Followed } from '../follow'
import type { MakeRequest, SplitMaker } from './maker'

/** What was worked out for a request: it is asked both for what followed and for what could not. */
const known = new WeakMap<MakeRequest, readonly Followed[]>()

function followed(request: MakeRequest): readonly Followed[] {
  const before = known.get(request)
  if (before) return before
  const { timeline, older } = request
  if (!older) return []
  if (!sameRate(older.timeline.rate, timeline.rate))
    fail(
      'split.rate',
      'The two timelines are at different rates.',
      older.timeline.name,
      'Choose a version at the rate of this one.',
    )
  const list = follow(older.timeline, timeline, older.split)
  known.set(request, list)
  return list
}

/** The regions of an older version, where their shots are now. */
export const version: SplitMaker = {
  name: 'version',
  label: 'regions of an older version',
  hint: 'Regions follow their shots, with papers, chapters and outlets; what is in doubt says why.',
  make(request) {
    const { older } = request
    return followed(request).flatMap(({ region, range, doubts, chapters }) =>
      range
        ? [
            {
              ...{ name: region.name, ...range, metadata: region.metadata, chapters, follows: region },
              ...(older ? { from: { timelineId: older.id, regionId: region.id } } : {}),
              ...(region.kind ? { kind: region.kind } : {}),
              outlets: older?.outlets.get(region.id) ?? [],
              ...(doubts.length ? { doubt: listed(doubts) } : {}),
            },
          ]
        : [],
    )
  },
  lost: (request) =>
    followed(request).flatMap(({ region, range, doubts }) =>
      range ? [] : [{ name: region.name, why: listed(doubts) }],
    ),
}
