import { fail } from '../../problem'
import { sameRate } from '../../time/rate'
import { hasCuts } from '../../timeline/comparecuts'
import { isSoundAlone, type Timeline } from '../../timeline/model'
import { listed } from '../../text'
import { follow, type Followed } from '../follow'
import { followPictures } from '../followpictures'
import type { MakeRequest, SplitMaker } from './maker'

/**
 * Whether regions of one can follow to the other by their pictures alone: not both have a list of their cuts. At
 * different rates they cannot follow at all, and sound alone has no pictures.
 */
export function goesByPictures(older: Timeline, newer: Timeline): boolean {
  const pictured = ![older, newer].some(isSoundAlone)
  return sameRate(older.rate, newer.rate) && pictured && !(hasCuts(older) && hasCuts(newer))
}

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
  const { same = null } = older
  const list = goesByPictures(older.timeline, timeline)
    ? same && followPictures(older.timeline, timeline, older.split, same)
    : follow(older.timeline, timeline, older.split)
  if (!list)
    fail(
      'split.not-compared',
      'Not both have a list: their pictures are being held against each other.',
      older.timeline.name,
      'What comes of it is shown when that is done.',
    )
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
