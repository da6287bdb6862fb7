import { fail } from '../problem'
import type { FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import { countedFrom } from '../time/midnight'
import { formatTimecode, parseTimecode, type TimeBase } from '../time/timecode'
import { csvRows } from '../timeline/formats/csv'
import { timeBase, type Timeline } from '../timeline/model'
import { kindNamed, kindNames } from './kinds'
import type { NamedRange } from './makers/maker'

/** Columns that are no metadata of the region. */
const own = new Set(['name', 'in', 'out', 'number', 'kind', 'outlet', 'chapters'])

/** A line of the list while it is read. */
class Line {
  private readonly base: TimeBase

  constructor(
    private readonly header: readonly string[],
    private readonly fields: readonly string[],
    private readonly where: string,
    private readonly timeline: Timeline,
  ) {
    this.base = timeBase(timeline)
  }

  text(column: string): string {
    return this.fields[this.header.indexOf(column)] ?? ''
  }

  private frame(label: string): Frames {
    const frames = parseTimecode(label, this.base)
    if (frames === null)
      fail('csv.timecode', `“${label}” is not a timecode at this rate.`, this.where, 'Write it as hh:mm:ss:ff.')
    const { start, length } = this.timeline
    return countedFrom(start, frames, this.base, start + length) - start
  }

  /** Parts of a column that holds several, parted by `|`. */
  private parts(column: string): string[] {
    return this.text(column)
      .split('|')
      .map((p) => p.trim())
      .filter(Boolean)
  }

  private chapters(range: FrameRange): NamedRange['chapters'] & object {
    return this.parts('chapters').map((part) => {
      const [label = '', ...words] = part.split(/\s+/)
      const at = this.frame(label)
      if (at < range.in || at >= range.out)
        fail(
          'csv.chapter',
          `The chapter “${part}” lies outside its region.`,
          this.where,
          'Write each as a timecode within the region and a name, parted by |.',
        )
      return { at, name: words.join(' ') }
    })
  }

  private kind(): NamedRange['kind'] | null {
    const text = this.text('kind')
    if (text === '') return null
    return (
      kindNamed(text) ??
      fail('csv.kind', `“${text}” is no kind of region.`, this.where, `Write one of: ${kindNames.join(', ')}.`)
    )
  }

  region(): NamedRange {
    const { start, length } = this.timeline
    const name = this.text('name')
    const range = { in: this.frame(this.text('in')), out: this.frame(this.text('out')) }
    if (range.out <= range.in)
      fail(
        'csv.backwards',
        `The region “${name}” ends before it begins.`,
        this.where,
        'Out is the first frame not included; it must be later than in.',
      )
    if (range.in < 0 || range.out > length)
      fail(
        'csv.outside',
        `The region “${name}” reaches outside the timeline.`,
        this.where,
        `The timeline runs from ${formatTimecode(start, this.base)} to ${formatTimecode(start + length, this.base)}.`,
      )
    const fields = this.header.filter((h) => h !== '' && !own.has(h))
    const metadata = Object.fromEntries(fields.flatMap((h) => (this.text(h) ? [[h, this.text(h)]] : [])))
    const outlets = this.parts('outlet')
    const chapters = this.chapters(range)
    const kind = this.kind()
    return {
      name,
      ...range,
      ...(kind ? { kind } : {}),
      ...(fields.length ? { metadata } : {}),
      ...(outlets.length ? { outlets } : {}),
      ...(chapters.length ? { chapters } : {}),
    }
  }
}

/**
 * Reads regions from CSV with the header `name,in,out`; timecodes of the timeline, out not included. A column `outlet`
 * names who receives a region, `kind` what it is, `chapters` its chapters, each as a timecode and a name; several are
 * parted by `|`. Further columns are metadata by their names. Names the line that is wrong.
 */
export function readRegionsCsv(text: string, timeline: Timeline, fileName: string): NamedRange[] {
  const rows = csvRows(text)
  const header = (rows[0]?.fields ?? []).map((h) => h.toLowerCase())
  if (['name', 'in', 'out'].some((h) => !header.includes(h)))
    fail('csv.header', 'The first line should read name,in,out.', `${fileName}, line 1`, 'Add the header line.')
  if (rows.length < 2)
    fail('csv.empty', 'There are no regions below the header.', fileName, 'Write a line for each region.')
  return rows
    .slice(1)
    .map(({ line, fields }) => new Line(header, fields, `${fileName}, line ${line}`, timeline).region())
}
