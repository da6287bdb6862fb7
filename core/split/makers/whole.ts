import type { SplitMaker } from './maker'

/** The whole timeline as one region. */
export const whole: SplitMaker = {
  name: 'whole',
  label: 'the whole timeline',
  make: ({ timeline: t }) => [{ name: t.name, in: 0, out: t.length }],
}
