import Papa from 'papaparse'
import type { TimelineFormat } from './format'
import { fail, type Problem } from '../../problem'
import { countedFrom } from '../../time/midnight'
import { parseRate, rateText, type Frames, type Rate } from '../../time/rate'
import { canDropFrame, formatTimecode, parseTimecode, type TimeBase } from '../../time/timecode'
import {
  isNormal,
  normalSpeed,
  sourceLength,
  type SourceRange,
  type Speed,
  type Timeline,
  type TimelineEvent,
  type TimelineMarker,
  type Track,
} from '../model'
import { losses } from './losses'
import { rateOfLabels } from './rate'

/** What parts the fields of a text: the comma of RFC 4180, or what stands in its first line more often. */
function delimiterOf(body: string): string {
  const head = body.split('\n', 1)[0]!.replace(/"[^"]*"/g, '')
  const count = (c: string) => head.split(c).length
  return [';', '\t'].reduce((best, c) => (count(c) > count(best) ? c : best), ',')
}

/** Spreadsheets take a text that begins like this for a formula; an apostrophe before it keeps it a text. */
const formula = /^[=+\-@\t\r]/
const guarded = (v: string | number) =>
  typeof v === 'string' && formula.test(v) && Number.isNaN(Number(v)) ? `'${v}` : v

/**
 * Rows of comma-separated values (RFC 4180), quoted fields over several lines included, each with its line number.
 * Semicolons and tabs are taken where the first line has them; the apostrophe of {@link csvLine} is taken off again.
 */
export function csvRows(text: string): { readonly line: number; readonly fields: string[] }[] {
  const body = text.replace(/^\uFEFF/, '').replace(/\r\n?/g, '\n')
  const rows: { line: number; fields: string[] }[] = []
  let line = 1
  let at = 0
  Papa.parse<string[]>(body, {
    delimiter: delimiterOf(body),
    newline: '\n',
    step({ data, meta }) {
      const fields = data.map((f) => f.trim().replace(/^'(?=[=+\-@])/, ''))
      if (fields.some((f) => f !== '')) rows.push({ line, fields })
      for (; at < meta.cursor; at++) if (body[at] === '\n') line++
    },
  })
  return rows
}

/** One line; no text of people in it is a formula to a spreadsheet. */
export function csvLine(values: readonly (string | number)[]): string {
  return Papa.unparse([values.map(guarded)])
}

/**
 * Columns of a timeline as CSV; `record in` and `record out` must be there, the rest may. docs/timeline-csv.md
 * describes them.
 */
const columns = [
  'kind',
  'track',
  'name',
  'reel',
  'file',
  'source in',
  'source out',
  'source rate',
  'record in',
  'record out',
  'speed',
  'transition',
  'transition frames',
  'channels',
  'gain',
  'rate',
] as const

const fraction = (s: Speed) => (s.den === 1 ? String(s.num) : `${s.num}/${s.den}`)
function readSpeed(text: string): Speed | null {
  const m = /^(-?\d{1,9})(?:\/(\d{1,9}))?$/.exec(text)
  return m && Number(m[2] ?? 1) > 0 ? { num: Number(m[1]), den: Number(m[2] ?? 1) } : null
}

type Column = (typeof columns)[number]
interface Row {
  readonly line: number
  readonly fields: readonly string[]
}

/** Reads a timeline from CSV with a header line. Rows that cannot be read are named and skipped. */
export function readTimelineCsv(
  text: string,
  given: Rate | null,
  fileName: string,
): { timeline: Timeline; problems: Problem[] } {
  const rows = csvRows(text)
  const header = (rows[0]?.fields ?? []).map((h) => h.toLowerCase())
  if (!header.includes('record in') || !header.includes('record out'))
    fail(
      'csv.header',
      'The header line should name the columns “record in” and “record out”.',
      `${fileName}, line 1`,
      'Add the header line.',
    )
  const at = new Map(header.map((h, i) => [h, i]))
  const cell = (r: Row, column: Column) => r.fields[at.get(column) ?? -1] ?? ''
  const head = rows.find((r) => cell(r, 'kind').toLowerCase() === 'timeline')
  const drops = rows.some((r) => cell(r, 'record in').includes(';'))
  const stated = (head && parseRate(cell(head, 'rate'))) ?? given
  const labels = rows.map((r) => `${cell(r, 'record in')} ${cell(r, 'record out')}`)
  const told = stated ? { rate: stated, problem: null } : rateOfLabels(labels, false, fileName)
  const { rate } = told
  const base: TimeBase = { rate, dropFrame: drops && canDropFrame(rate) }
  const headIn = head ? parseTimecode(cell(head, 'record in'), base) : null
  const headEnd = head ? parseTimecode(cell(head, 'record out'), base) : null
  const reader = new TimelineRows(base, cell, fileName, headIn)
  if (told.problem) reader.problems.push(told.problem)
  for (const row of rows.slice(1)) if (row !== head) reader.read(row)
  const { events, markers } = reader
  const headOut = headIn === null || headEnd === null ? headEnd : countedFrom(headIn, headEnd, base)
  const start = headIn ?? events.reduce((m, e) => Math.min(m, e.record.in), events.length ? Infinity : 0)
  const end = Math.max(
    headOut ?? 0,
    events.reduce((m, e) => Math.max(m, e.record.out), start),
  )
  const shift = (n: Frames) => n - start
  return {
    timeline: {
      name: head ? cell(head, 'name') : fileName.replace(/\.[^.]*$/, ''),
      ...base,
      start,
      length: end - start,
      tracks: [...reader.tracks.values()].sort((a, b) => (a.kind === b.kind ? 0 : a.kind === 'video' ? -1 : 1)),
      events: events.map((e) => ({ ...e, record: { in: shift(e.record.in), out: shift(e.record.out) } })),
      markers: markers.map((m) => ({ ...m, at: shift(m.at) })),
    },
    problems: reader.problems,
  }
}

/** Takes the rows below the header one by one; places are as they are labelled. */
class TimelineRows {
  readonly problems: Problem[] = []
  readonly events: TimelineEvent[] = []
  readonly markers: TimelineMarker[] = []
  readonly tracks = new Map<string, Track>()

  constructor(
    private readonly base: TimeBase,
    private readonly cell: (row: Row, column: Column) => string,
    private readonly fileName: string,
    /** What record labels count from; those of the first row where nothing says so. */
    private begins: Frames | null,
  ) {}

  private complain(row: Row, column: string, value: string, fix: string): void {
    if (this.problems.length < 200)
      this.problems.push({
        code: `csv.${column.replaceAll(' ', '-')}`,
        message: `“${value}” is not a ${column}.`,
        where: `${this.fileName}, line ${row.line}`,
        fix,
      })
  }

  private label(row: Row, column: 'record in' | 'record out' | 'source in' | 'source out', base: TimeBase) {
    const frames = parseTimecode(this.cell(row, column), base)
    if (frames === null) this.complain(row, column, this.cell(row, column), 'Write it as hh:mm:ss:ff.')
    return frames
  }

  read(row: Row): void {
    const { cell, base } = this
    const kind = cell(row, 'kind').toLowerCase() || (/^a/i.test(cell(row, 'track')) ? 'audio' : 'video')
    const label = this.label(row, 'record in', base)
    if (label === null) return
    this.begins ??= label
    const from = countedFrom(this.begins, label, base)
    if (kind === 'marker' || kind === 'chapter' || kind === 'part') {
      const to = cell(row, 'record out') === '' ? null : this.label(row, 'record out', base)
      const frames = to === null ? 0 : Math.max(0, countedFrom(from, to, base) - from)
      this.markers.push({ kind, name: cell(row, 'name'), at: from, frames })
      return
    }
    if (kind !== 'video' && kind !== 'audio')
      return this.complain(row, 'kind', kind, 'Write video, audio, marker, chapter or part.')
    const end = this.label(row, 'record out', base)
    if (end === null) return
    const to = countedFrom(from, end, base)
    if (to <= from)
      return this.complain(
        row,
        'record out',
        cell(row, 'record out'),
        'Out is the first frame not included; it must be later than in.',
      )
    const speed = cell(row, 'speed') === '' ? normalSpeed : readSpeed(cell(row, 'speed'))
    if (!speed)
      return this.complain(row, 'speed', cell(row, 'speed'), 'Write a whole number or a fraction, such as 1/2 or -1.')
    const source = cell(row, 'source in') === '' ? null : this.source(row, to - from, speed)
    if (source === undefined) return
    this.event(row, kind, { in: from, out: to }, speed, source)
  }

  /** What an event takes; undefined when a label cannot be read. */
  private source(row: Row, length: Frames, speed: Speed): SourceRange | undefined {
    const { cell } = this
    const rate = parseRate(cell(row, 'source rate')) ?? this.base.rate
    const dropFrame = cell(row, 'source in').includes(';') && canDropFrame(rate)
    const first = this.label(row, 'source in', { rate, dropFrame })
    if (first === null) return undefined
    const end =
      cell(row, 'source out') === ''
        ? first + sourceLength(length, speed)
        : this.label(row, 'source out', { rate, dropFrame })
    if (end === null) return undefined
    const last = countedFrom(first, end, { rate, dropFrame })
    return { in: first, out: Math.max(first + 1, last), rate, ...(dropFrame ? { dropFrame: true } : {}) }
  }

  private event(
    row: Row,
    kind: 'video' | 'audio',
    record: { in: Frames; out: Frames },
    speed: Speed,
    source: SourceRange | null,
  ): void {
    const { cell } = this
    const track = cell(row, 'track') || (kind === 'audio' ? 'A1' : 'V')
    if (!this.tracks.has(`${kind}/${track}`)) this.tracks.set(`${kind}/${track}`, { name: track, kind })
    const moves = cell(row, 'transition').toLowerCase()
    const frames = Number(cell(row, 'transition frames') || 0)
    const gain = Number(cell(row, 'gain') || 0)
    const channels = cell(row, 'channels')
      .split(/\s+/)
      .filter((c) => /^\d{1,3}$/.test(c))
      .map((c) => Number(c) - 1)
      .filter((c) => c >= 0)
    this.events.push({
      track,
      kind,
      name: cell(row, 'name'),
      reel: cell(row, 'reel'),
      file: cell(row, 'file') || null,
      source,
      speed,
      record,
      transition:
        (moves === 'dissolve' || moves === 'wipe') && Number.isInteger(frames) && frames > 0
          ? { kind: moves, frames: Math.min(frames, record.out - record.in) }
          : null,
      ...(channels.length ? { channels } : {}),
      ...(Number.isFinite(gain) && gain !== 0 ? { gain } : {}),
    })
  }
}

export function writeTimelineCsv(t: Timeline): { text: string; problems: Problem[] } {
  const { problems, lose } = losses(t.name, 'Use an edit decision list or OpenTimelineIO where this matters.')
  const named = t.events.filter((e) => e.transition?.outgoing).length
  lose(named, 'csv.outgoing', 'The outgoing side of # transitions is not written; the event before goes on instead.')
  const label = (n: Frames) => formatTimecode(t.start + n, t)
  const row = (v: Partial<Record<(typeof columns)[number], string | number>>) => csvLine(columns.map((c) => v[c] ?? ''))
  const lines = [
    columns.join(','),
    row({
      kind: 'timeline',
      name: t.name,
      'record in': label(0),
      'record out': label(t.length),
      rate: rateText(t.rate),
    }),
  ]
  const level = new Map(t.tracks.map((x, i) => [`${x.kind}/${x.name}`, i]))
  const place = (e: TimelineEvent) => level.get(`${e.kind}/${e.track}`) ?? 0
  for (const e of [...t.events].sort((a, b) => place(a) - place(b) || a.record.in - b.record.in)) {
    const source = (n: Frames) => formatTimecode(n, { rate: e.source!.rate, dropFrame: e.source!.dropFrame ?? false })
    lines.push(
      row({
        kind: e.kind,
        track: e.track,
        name: e.name,
        reel: e.reel,
        file: e.file ?? '',
        'record in': label(e.record.in),
        'record out': label(e.record.out),
        ...(e.source
          ? {
              'source in': source(e.source.in),
              'source out': source(e.source.out),
              'source rate': rateText(e.source.rate),
            }
          : {}),
        ...(isNormal(e.speed) ? {} : { speed: fraction(e.speed) }),
        ...(e.transition ? { transition: e.transition.kind, 'transition frames': e.transition.frames } : {}),
        ...(e.channels ? { channels: e.channels.map((c) => c + 1).join(' ') } : {}),
        ...(e.gain ? { gain: e.gain } : {}),
      }),
    )
  }
  for (const m of t.markers)
    lines.push(
      row({
        kind: m.kind,
        name: m.name,
        'record in': label(m.at),
        'record out': m.frames ? label(m.at + m.frames) : '',
      }),
    )
  return { text: `${lines.join('\r\n')}\r\n`, problems }
}

/** Timelines as CSV; docs/timeline-csv.md describes the columns. */
export const csv: TimelineFormat = {
  name: 'csv',
  label: 'CSV with the columns “record in” and “record out”',
  extensions: ['.csv'],
  holds: 'timeline',
  asksRate: true,
  sequential: true,
  recognise: (head) => /^[^\n]*\brecord in\b[^\n]*\brecord out\b/i.test(head),
  read: (text, fileName, rate) => readTimelineCsv(text, rate, fileName),
  write: writeTimelineCsv,
}
