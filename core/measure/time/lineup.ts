import { isMade, leadOf, madeWords, placed, programmeFrames, type Sectioned } from '../../lineup/lineup'
import type { MadeSection } from '../../lineup/section'
import type { FoundHead } from '../../analysis/head'
import { listed } from '../../text'
import type { FrameRange } from '../../time/range'
import type { Frames } from '../../time/rate'
import { formatTimecode, type TimeBase } from '../../time/timecode'
import { said, type LineUp, type Measure } from '../measure'

type Base = TimeBase & { readonly start: Frames }

/** Peaks of a tone, by channel. */
type Tones = LineUp['tones']

/** What is put in front of a programme; `base`: of the file. `tones`: its peaks as measured, or as they are to be. */
export function madeLineUp(file: Sectioned, base: Base, tones: Tones): LineUp {
  const made = placed(file)
    .filter(isMade)
    .filter((s) => s.at < leadOf(file))
  const called = (s: MadeSection) => (s.kind === 'bars' ? 'line-up' : s.kind)
  return {
    parts: made.map(called),
    lengths: Object.fromEntries(made.map((s) => [called(s), secondsOf(s.frames, base)])),
    text: made.length ? listed(madeWords(made, base.rate)) : 'none',
    tones,
    start: formatTimecode(base.start + leadOf(file), base),
    ...lengthOf(programmeFrames(file), base),
  }
}

const secondsOf = (frames: Frames, { rate }: Base) => (frames * rate.den) / rate.num

const lengthOf = (frames: Frames, base: Base) => ({
  seconds: secondsOf(frames, base),
  length: formatTimecode(frames, base),
})

/**
 * What was found at the head of a file of others. Its programme is where black ends when that is a whole second: else
 * it may begin in that black.
 */
export function foundLineUp(found: FoundHead | null, length: Frames, base: Base, tones: Tones): LineUp {
  if (!found) {
    const start = formatTimecode(base.start, base)
    return { parts: [], lengths: {}, text: 'none was found', tones: [], start, ...lengthOf(length, base) }
  }
  const label = (n: Frames) => formatTimecode(base.start + n, base)
  const { lineUp, clock, black, programme, by } = found
  const long = (r: FrameRange) => secondsOf(r.out - r.in, base)
  const words = [
    `${by.join(' and ')} from ${label(lineUp.in)}`,
    ...(clock ? [`clock from ${label(clock.in)}`] : []),
    `black to ${label(programme)}`,
  ]
  return {
    parts: ['line-up', ...(clock ? ['clock'] : []), 'black'],
    lengths: {
      ...{ 'line-up': long(lineUp), ...(clock ? { clock: long(clock) } : {}) },
      ...(black ? { black: long(black) } : {}),
    },
    text: listed(words),
    tones,
    start: /[:;]00$/.test(label(programme)) ? label(programme) : null,
    ...lengthOf(length - programme, base),
  }
}

/**
 * What stands in front of a programme: what is made, or what its region begins with (`head`, null where nothing was
 * found). `base`: of the file; `tones`: the peaks as measured, or as they are to be.
 */
export function lineUpOf(
  file: Sectioned,
  head: FoundHead | null,
  base: Base,
  tones: { readonly made: Tones; readonly found: Tones },
): LineUp {
  const made = madeLineUp(file, base, tones.made)
  if (!head || programmeFrames(file) <= head.programme) return made
  const lead = leadOf(file)
  const found = foundLineUp(head, programmeFrames(file), { ...base, start: base.start + lead }, tones.found)
  return lead > 0 ? { ...made, again: found.text } : found
}

/** A measure of how many seconds a part of what stands in front of a programme lasts; 0 where it is not there. */
export function ofLineUp(name: string, label: string, part: string): Measure {
  return {
    ...{ name, label, group: 'time', ofSections: true, unit: ' s' },
    read({ lineUp: l }) {
      if (!l) return null
      const seconds = l.lengths[part]
      if (seconds !== undefined) return said(seconds, `${Number(seconds.toFixed(2))} s`)
      return l.parts.includes(part) ? null : said(0, 'there is none')
    },
  }
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
