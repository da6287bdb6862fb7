import { topEvents } from '../../timeline/model'
import type { SplitMaker } from './maker'

/** Each event of the timeline's pictures, as its list has it. */
export const events: SplitMaker = {
  name: 'events',
  label: 'each event of the list',
  hint: "Each event of the timeline's pictures, by its own name.",
  make: ({ timeline }) => topEvents(timeline).map((e) => ({ name: e.name || e.reel, ...e.record })),
}
