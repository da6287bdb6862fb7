import type { SplitMaker } from './maker'

/** Each of the shots that were chosen. */
export const shots: SplitMaker = {
  name: 'shots',
  label: 'each chosen shot',
  make: ({ shots: all = [], chosen = [] }) =>
    chosen.flatMap((i) => (all[i] ? [{ in: all[i].in, out: all[i].out, name: all[i].name }] : [])),
}
