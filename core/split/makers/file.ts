import { formatOf, readInterchange } from '../../timeline/formats/registry'
import { topEvents, type Timeline } from '../../timeline/model'
import { sameRate } from '../../time/rate'
import { fail } from '../../problem'
import { readLines } from '../lines'
import { readRegionsCsv } from '../regionscsv'
import type { NamedRange, SplitMaker } from './maker'

/** The parts, events or chapters of another timeline's file, where its labels place them on this one. */
function fromInterchange(text: string, fileName: string, t: Timeline): NamedRange[] {
  const { timeline: other } = readInterchange(text, fileName, t.rate)
  if (!sameRate(other.rate, t.rate))
    fail(
      'split.rate',
      'The list is at another rate than the timeline: its labels are other frames.',
      fileName,
      'Give a list at the rate of the timeline.',
    )
  // a list that has no labels of its own begins with the timeline
  const shift = other.start === 0 ? 0 : other.start - t.start
  const parts = other.markers.filter((m) => m.kind === 'part' && m.frames > 0)
  const events = topEvents(other)
  const marks = [...other.markers].sort((a, b) => a.at - b.at)
  const own = parts.length
    ? parts.map((m) => ({ name: m.name, in: m.at, out: m.at + m.frames }))
    : events.length
      ? events.map((e) => ({ name: e.name || e.reel, ...e.record }))
      : marks.map((m, i) => ({ name: m.name, in: m.at, out: m.frames ? m.at + m.frames : marks[i + 1]?.at }))
  const ranges = own.map((r) => ({ name: r.name, in: r.in + shift, out: (r.out ?? t.length - shift) + shift }))
  if (ranges.every((r) => r.in < 0 || r.in >= t.length))
    fail('split.elsewhere', 'Nothing of the list lies on this timeline.', fileName, 'Choose the list of this timeline.')
  return ranges
}

/** What of a range lies on a timeline; in doubt where that is not all of it. */
function within(r: NamedRange, length: number): NamedRange {
  const range = { in: Math.max(0, r.in), out: Math.min(length, r.out) }
  return range.in === r.in && range.out === r.out ? r : { ...r, ...range, doubt: 'it reaches outside the timeline' }
}

/** The regions of a file: CSV, any interchange format, or lines as they are typed. */
export const file: SplitMaker = {
  name: 'file',
  label: 'a file of regions or cuts',
  hint: 'CSV with name, in, out; an edit decision list, a composition playlist, chapters; or plain lines.',
  make({ timeline, list }) {
    if (!list) return []
    const { text, fileName } = list
    if (formatOf(text))
      return fromInterchange(text, fileName, timeline)
        .map((r) => within(r, timeline.length))
        .filter((r) => r.out > r.in)
    const head = text
      .replace(/^\uFEFF/, '')
      .split('\n', 1)[0]!
      .toLowerCase()
    if (['name', 'in', 'out'].every((c) => head.split(/[,;\t]/).some((h) => h.trim() === c)))
      return readRegionsCsv(text, timeline, fileName)
    const read = readLines(text, timeline, { from: 'fitting', end: 'after' })
    const bad = read.findIndex((l) => l.why !== null)
    if (bad >= 0 || !read.some((l) => l.range))
      fail(
        'split.list',
        bad < 0 ? 'There are no regions in this file.' : `“${read[bad]!.text.slice(0, 80)}”: ${read[bad]!.why}.`,
        bad < 0 ? fileName : `${fileName}, line ${bad + 1}`,
        'Give CSV with the header name,in,out, a list of cuts, or a line for each region: in, out, name.',
      )
    return read.flatMap((l) => (l.range ? [l.range] : []))
  },
  lost: ({ timeline, list }) =>
    list && formatOf(list.text)
      ? fromInterchange(list.text, list.fileName, timeline)
          .filter((r) => r.out <= 0 || r.in >= timeline.length)
          .map((r) => ({ name: r.name, why: 'it lies outside the timeline' }))
      : [],
}
