import { fail } from '../../problem'
import { formatTimecode, parseTimecode } from '../../time/timecode'
import { csvRows } from '../../timeline/formats/csv'
import { timeBase, type Timeline } from '../../timeline/model'
import type { NamedRange, SplitMaker } from './maker'

/** Columns that are no metadata of the region. */
const own = new Set(['name', 'in', 'out', 'number', 'outlet', 'chapters'])

/**
 * Reads regions from CSV with the header `name,in,out`; timecodes of the timeline, out not included; further columns
 * are metadata by their names. Names the line that is wrong.
 */
export function readRegionsCsv(text: string, timeline: Timeline, fileName: string): NamedRange[] {
  const rows = csvRows(text)
  const header = (rows[0]?.fields ?? []).map((h) => h.toLowerCase())
  const at = { name: header.indexOf('name'), in: header.indexOf('in'), out: header.indexOf('out') }
  if (at.name < 0 || at.in < 0 || at.out < 0)
    fail('csv.header', 'The first line should read name,in,out.', `${fileName}, line 1`, 'Add the header line.')
  if (rows.length < 2)
    fail('csv.empty', 'There are no regions below the header.', fileName, 'Write a line for each region.')
  const fields = header.map((name, i) => ({ name, i })).filter(({ name }) => name !== '' && !own.has(name))
  const base = timeBase(timeline)
  const out: NamedRange[] = []
  rows.slice(1).forEach(({ line, fields: f }) => {
    const where = `${fileName}, line ${line}`
    const frame = (column: 'in' | 'out') => {
      const label = parseTimecode(f[at[column]] ?? '', base)
      if (label === null)
        fail(
          'csv.timecode',
          `“${f[at[column]] ?? ''}” is not a timecode at this rate.`,
          where,
          'Write it as hh:mm:ss:ff.',
        )
      return label - timeline.start
    }
    const metadata = Object.fromEntries(fields.flatMap(({ name, i }) => (f[i] ? [[name, f[i]]] : [])))
    const region = {
      name: f[at.name] ?? '',
      in: frame('in'),
      out: frame('out'),
      ...(fields.length ? { metadata } : {}),
    }
    if (region.out <= region.in)
      fail(
        'csv.backwards',
        `The region “${region.name}” ends before it begins.`,
        where,
        'Out is the first frame not included; it must be later than in.',
      )
    if (region.in < 0 || region.out > timeline.length)
      fail(
        'csv.outside',
        `The region “${region.name}” reaches outside the timeline.`,
        where,
        `The timeline runs from ${formatTimecode(timeline.start, base)} to ` +
          `${formatTimecode(timeline.start + timeline.length, base)}.`,
      )
    out.push(region)
  })
  return out
}

/** The regions of a list: CSV with the header `name,in,out`. */
export const list: SplitMaker = {
  name: 'list',
  label: 'each line of a list',
  make: ({ timeline, list: given }) => (given ? readRegionsCsv(given.text, timeline, given.fileName) : []),
}
