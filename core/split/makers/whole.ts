import type { SplitMaker } from './maker'

/** The whole timeline as one region. */
export const whole: SplitMaker = {
  name: 'whole',
  label: 'the whole timeline',
  hint: 'All of it, as one region.',
  make: ({ timeline: t }) => [{ name: t.name, in: 0, out: t.length }],
}
