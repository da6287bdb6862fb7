import type { SplitMaker } from './maker'

/** Each part that the timeline says it has: another timeline laid into it. */
export const parts: SplitMaker = {
  name: 'parts',
  label: 'each part the timeline holds',
  hint: 'Each timeline that is laid into this one.',
  make: ({ timeline: t }) =>
    t.markers
      .filter((m) => m.kind === 'part' && m.frames > 0 && m.at + m.frames <= t.length)
      .map((m) => ({ name: m.name, in: m.at, out: m.at + m.frames })),
}
