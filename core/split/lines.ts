import { countedFrom } from '../time/midnight'
import { lastWhere } from '../time/order'
import type { Frames } from '../time/rate'
import { formatTimecode, lengthText, parseClock, parseLength, parseTimecode, type TimeBase } from '../time/timecode'
import { timeBase, type Timeline } from '../timeline/model'
import { csvRows } from '../timeline/formats/csv'
import type { NamedRange } from './makers/maker'

/** The most letters that the name of a region has. */
const longestName = 400

/** What typed or pasted lines say of times. */
export interface LineOptions {
  /** What times count from: the labels of the timeline, its first frame, or what fits all of them. */
  readonly from: 'fitting' | 'labels' | 'first'
  /** Whether the end that a line gives is the first frame after, or the last one. */
  readonly end: 'after' | 'last'
}

/** One line as it was understood: a region, nothing (a blank line, a header), or why it is none. */
export interface ReadLine {
  readonly text: string
  readonly range: NamedRange | null
  readonly why: string | null
}

/** The parts of a line before it is known what its times count from. */
interface Parts {
  readonly from: Frames | null
  readonly to: Frames | null
  readonly length: Frames | null
  readonly name: string
  readonly metadata: Readonly<Record<string, string>>
  readonly why: string | null
}

const words = {
  in: ['in', 'start', 'from', 'begin', 'tc in', 'timecode in', 'record in', 'first', 'first frame'],
  out: ['out', 'end', 'to', 'tc out', 'timecode out', 'record out', 'last', 'last frame'],
  length: ['length', 'duration', 'dur'],
  name: ['name', 'title', 'region', 'clip', 'episode'],
  number: ['number', 'no', 'no.', 'nr', '#'],
} as const
type Column = keyof typeof words

const columnOf = (cell: string): Column | null =>
  (Object.keys(words) as Column[]).find((c) => (words[c] as readonly string[]).includes(cell.trim().toLowerCase())) ??
  null

/** A time in a line, by its spelling: a label with frames, a clock without, or what only a length is written as. */
function timeOf(text: string, base: TimeBase): { readonly frames: Frames; readonly length: boolean } | null {
  const label = parseTimecode(text, base) ?? parseClock(text, base)
  if (label !== null) return { frames: label, length: false }
  const plus = /^\+\s*(.+)$/.exec(text)
  if (plus) {
    const frames = parseLength(plus[1]!, base)
    return frames === null ? null : { frames, length: true }
  }
  const frames = /^\d+$/.test(text) ? null : parseLength(text, base)
  return frames === null ? null : { frames, length: true }
}

const clock = String.raw`\d{1,3}:\d{1,2}(?::\d{1,2})?(?:[:;.,]\d{1,9})?`
const unit = '(?:f|fr|frames?|s|secs?|seconds?|min|minutes?|h|hours?)'
const units = String.raw`\d+(?:[.,]\d+)?\s?${unit}\b(?:\s?\d+\s?(?:m|min|s|sec)\b)*`
const times = new RegExp(String.raw`(?<![\w.:])(?:\+\s?(?:${clock}|${units}|\d+)|${clock}|${units})(?![\w:])`, 'gi')
/** Two bare numbers at the head of a line are frames from the first one. */
const bare = /^\s*(\d{1,9})(?:\s*(?:-|–|→|,|;|\t|to)\s*|\s+)(\d{1,9})(?=\s|,|;|$)/i
/** What stands between the times and the name of a line. */
const edges = /^[\s,;|–—→<>()[\]"-]+|[\s,;|–—→<>()[\]"-]+$/g
const numbering = /^\s*(?:#\s*)?\d{1,4}\s*[.):]\s+/

/** What may stand between a time and the one that belongs to it. */
const between = /^(?:[\s,;|–—→>()[\]-]|to|until)*$/i
interface Found {
  readonly m: RegExpExecArray
  readonly time: ReturnType<typeof timeOf>
}

/** A line as people write it: times anywhere in it, the rest is its name. */
function freeLine(text: string, base: TimeBase): Parts {
  const none = { from: null, to: null, length: null, metadata: {} }
  const frames = bare.exec(text)
  if (frames && !new RegExp(clock).test(text)) {
    const name = text.slice(frames[0].length).replace(edges, '')
    return { ...none, from: Number(frames[1]), to: Number(frames[2]), name, why: null }
  }
  const body = text.replace(numbering, '')
  const found: Found[] = [...body.matchAll(times)].map((m) => ({ m, time: timeOf(m[0].trim(), base) }))
  const odd = found.find((f) => f.time === null)
  if (odd) return { ...none, name: '', why: `“${odd.m[0].trim()}” is no timecode at this rate` }
  // the first time must be a place; what follows it is its end or its length where it stands right behind it, in a
  // column of its own, or is written the same way: else it belongs to the name
  const first = found.findIndex((f) => !f.time!.length)
  const from = found[first]
  if (!from) return { ...none, name: '', why: 'there is no time in it' }
  const end = (f: Found) => f.m.index + f.m[0].length
  const alone = (f: Found) => /(^|\t)\s*$/.test(body.slice(0, f.m.index)) && /^\s*(\t|$)/.test(body.slice(end(f)))
  const colons = (f: Found) => f.m[0].replace(/[^:;]/g, '').length
  const behind = (f: Found, last: Found) => between.test(body.slice(end(last), f.m.index))
  const rest = found.slice(first + 1)
  const to = rest.find((f) => !f.time!.length && (behind(f, from) || alone(f) || colons(f) === colons(from))) ?? null
  const long = (f: Found) => f.time!.length && (f.m[0].startsWith('+') || behind(f, to ?? from) || alone(f))
  const length = rest.find(long) ?? null
  let name = body
  for (const f of [length, to, from].filter((x) => x !== null).sort((x, y) => y.m.index - x.m.index))
    name = `${name.slice(0, f.m.index)}\t${name.slice(f.m.index + f.m[0].length)}`
  name = name
    .split('\t')
    .map((part) => part.replace(/^\s*(?:to|until)\s*$/i, '').replace(edges, ''))
    .filter(Boolean)
    .join(' ')
  return {
    ...none,
    from: from.time!.frames,
    to: to?.time!.frames ?? null,
    length: length?.time!.frames ?? null,
    name,
    why: null,
  }
}

/** A row under a header line. */
function headedLine(header: readonly string[], cells: readonly string[], base: TimeBase): Parts {
  const columns = header.map(columnOf)
  const cell = (c: Column) => cells[columns.indexOf(c)]?.trim() ?? ''
  const metadata = Object.fromEntries(
    header.flatMap((h, i) => (columns[i] || !h.trim() || !cells[i]?.trim() ? [] : [[h.trim(), cells[i].trim()]])),
  )
  const bad: string[] = []
  const read = (c: Column, parse: (text: string) => Frames | null) => {
    if (cell(c) === '') return null
    const frames = parse(cell(c))
    if (frames === null) bad.push(`“${cell(c)}” is no ${c === 'length' ? 'length' : 'time'}`)
    return frames
  }
  const place = (text: string) =>
    parseTimecode(text, base) ?? parseClock(text, base) ?? (/^\d{1,9}$/.test(text) ? Number(text) : null)
  const from = read('in', place)
  const to = read('out', place)
  const length = read('length', (text) => parseLength(text, base))
  const why = bad[0] ?? (from === null ? 'it has no beginning' : null)
  return { from, to, length, name: cell('name'), metadata, why }
}

/** Each line's parts; null for a line that says nothing: a blank one, a header, the rest of a quoted cell. */
function partsOf(lines: readonly string[], base: TimeBase): (Parts | null)[] {
  const rows = new Map(csvRows(lines.join('\n')).map((r) => [r.line - 1, r.fields]))
  const head = lines.findIndex((l) => l.trim() !== '')
  const header = rows.get(head) ?? []
  const headed = header.some((c) => columnOf(c) === 'in') && freeLine(lines[head]!, base).from === null
  return lines.map((l, i) => {
    if (l.trim() === '' || (headed && i === head)) return null
    if (!headed) return freeLine(l, base)
    const cells = rows.get(i)
    return cells ? headedLine(header, cells, base) : null
  })
}

/** What is read as a label of a timeline, as it counts: past midnight, on from the day before. */
const asCounted = (n: Frames, t: Timeline): Frames => countedFrom(t.start, n, t, t.start + t.length)

/** What times count from, so that as many as can be lie within the timeline: its labels where they do. */
function originOf(parts: readonly (Parts | null)[], t: Timeline, from: LineOptions['from']): Frames {
  const { start, length } = t
  if (from !== 'fitting') return from === 'labels' ? start : 0
  const places = parts.flatMap((p) => (p && p.from !== null ? [p.from] : []))
  const within = (origin: Frames) =>
    places.map((n) => (origin === 0 ? n : asCounted(n, t))).filter((n) => n >= origin && n < origin + length).length
  return within(start) >= within(0) ? start : 0
}

/**
 * Reads lines as they are typed or pasted, one region each: times in any usual spelling, `in out name`, `in name` (to
 * where the next begins), `in +length name`; or rows of a spreadsheet under a header that names its columns. Every line
 * is given back, understood or not.
 */
export function readLines(text: string, timeline: Timeline, options: LineOptions): ReadLine[] {
  const base = timeBase(timeline)
  const lines = text.replace(/\r\n?/g, '\n').split('\n')
  const read = partsOf(lines, base)
  const origin = originOf(read, timeline, options.from)
  const counted = (n: Frames | null) => (n === null || origin === 0 ? n : asCounted(n, timeline))
  const parts = read.map((p) => p && { ...p, from: counted(p.from), to: counted(p.to) })
  const starts = parts.flatMap((p) => (p && p.why === null && p.from !== null ? [p.from] : [])).sort((a, b) => a - b)
  return lines.map((line, i) => {
    const p = parts[i]!
    if (!p || p.why !== null || p.from === null) return { text: line, range: null, why: p?.why ?? null }
    const next = starts[lastWhere(starts.length, (k) => starts[k]! <= p.from!) + 1]
    const end = p.to === null ? null : p.to + (options.end === 'last' ? 1 : 0)
    const out = end ?? (p.length === null ? null : p.from + p.length) ?? next ?? origin + timeline.length
    const range = { in: p.from - origin, out: out - origin }
    const fits = end === null || p.length === null || end - p.from === p.length
    const long = p.name.length > longestName ? `its name is longer than ${longestName} letters` : null
    const why = long ?? (fits ? misplaced(range, timeline, origin) : 'its end and its length do not fit')
    const metadata = Object.keys(p.metadata).length ? { metadata: p.metadata } : {}
    return { text: line, range: why ? null : { name: p.name, ...range, ...metadata }, why }
  })
}

/** Why a range cannot be of a timeline, in words; null when it can. */
function misplaced(range: { in: Frames; out: Frames }, t: Timeline, origin: Frames): string | null {
  const label = (n: Frames) => formatTimecode(origin + n, t)
  if (range.out <= range.in) return `it ends (${label(range.out)}) before it begins`
  if (range.in < 0) return `it begins ${lengthText(-range.in, t.rate)} before the timeline`
  if (range.out > t.length) return `it ends ${lengthText(range.out - t.length, t.rate)} after the timeline`
  return null
}
