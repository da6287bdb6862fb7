import { isMade, leadOf, madeWords, placed, programmeFrames, type Sectioned } from '../lineup/lineup'
import type { FoundHead } from '../analysis/head'
import { listed } from '../text'
import type { Frames } from '../time/rate'
import { formatTimecode, type TimeBase } from '../time/timecode'
import { said, type LineUp, type Measure } from './measure'

type Base = TimeBase & { readonly start: Frames }

/** What is put in front of a programme; `base`: of the file. `tone`: its peak as measured, else as it is to be. */
export function madeLineUp(file: Sectioned, base: Base, tone?: number | null): LineUp {
  const made = placed(file)
    .filter(isMade)
    .filter((s) => s.at < leadOf(file))
  const level = made.find((s) => s.level !== undefined)?.level
  return {
    parts: made.map((s) => (s.kind === 'bars' ? 'line-up' : s.kind)),
    text: made.length ? listed(madeWords(made, base.rate)) : 'none',
    tone: tone !== undefined ? tone : (level ?? null),
    start: formatTimecode(base.start + leadOf(file), base),
    ...lengthOf(programmeFrames(file), base),
  }
}

const lengthOf = (frames: Frames, base: Base) => ({
  seconds: (frames * base.rate.den) / base.rate.num,
  length: formatTimecode(frames, base),
})

/**
 * What was found at the head of a file of others. Its programme is where black ends when that is a whole second: else
 * it may begin in that black.
 */
export function foundLineUp(found: FoundHead | null, length: Frames, base: Base, tone: number | null): LineUp {
  if (!found) {
    const start = formatTimecode(base.start, base)
    return { parts: [], text: 'none was found', tone: null, start, ...lengthOf(length, base) }
  }
  const label = (n: Frames) => formatTimecode(base.start + n, base)
  const { lineUp, clock, programme, by } = found
  const words = [
    `${by.join(' and ')} from ${label(lineUp.in)}`,
    ...(clock ? [`clock from ${label(clock.in)}`] : []),
    `black to ${label(programme)}`,
  ]
  return {
    parts: ['line-up', ...(clock ? ['clock'] : []), 'black'],
    text: listed(words),
    tone,
    start: /[:;]00$/.test(label(programme)) ? label(programme) : null,
    ...lengthOf(length - programme, base),
  }
}

/**
 * What stands in front of a programme: what is made, or what its region begins with (`head`, null where nothing was
 * found). `base`: of the file; `tone`: the peak as measured, else as it is to be.
 */
export function lineUpOf(
  file: Sectioned,
  head: FoundHead | null,
  base: Base,
  tone: { readonly made?: number | null; readonly found: number | null },
): LineUp {
  const made = madeLineUp(file, base, tone.made)
  if (!head || programmeFrames(file) <= head.programme) return made
  const lead = leadOf(file)
  const found = foundLineUp(head, programmeFrames(file), { ...base, start: base.start + lead }, tone.found)
  return lead > 0 ? { ...made, again: found.text } : found
}

/** What stands in front of a programme: `line-up` (bars, a still picture, a tone), `clock`, `black`. */
export const lineUp: Measure = {
  name: 'line-up',
  label: 'Line-up',
  group: 'time',
  ofSections: true,
  counts: true,
  read: ({ lineUp: l }) => (l ? said(l.parts, l.text) : null),
  fix: ({ recipe }) => (recipe.lineUp === null ? { lineUp: -18 } : null),
}
