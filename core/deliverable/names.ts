import { fileBase, type Output } from '../recipe/output'
import { rateLabel, type Frames } from '../time/rate'
import { layoutWord } from '../sound/layout'
import { fileSafe, unusablePart } from '../files/safe'
import { templatePieces } from '../text'
import { formatTimecode, type TimeBase } from '../time/timecode'
import type { Timeline } from '../timeline/model'
import type { SourcePlace } from '../timeline/sourceat'
import type { Region } from '../split/region'
import { versionLabel } from './versions'

/** What a name can be built from. */
export interface NameContext {
  readonly show: string
  readonly timeline: Timeline
  readonly region: Region
  /** The region's number from 1 among all of its timeline, as text with zeros in front. */
  readonly number: string
  readonly outlet: string
  readonly output: Output
  /** What its channels are. */
  readonly layout: string | null
  /** The source's file name, without folder and extension. */
  readonly source: string
  /** Where its first picture was taken from, as far as that is known. */
  readonly taken: () => SourcePlace | null
  /** The day of the run, on this machine's calendar. */
  readonly today: Date
  readonly version: number
}

interface NameFieldDefinition {
  /** What it is, where patterns are typed. */
  readonly text: string
  readonly value: (c: NameContext) => string
}
const field = (text: string, value: NameFieldDefinition['value']): NameFieldDefinition => ({ text, value })

const two = (n: number) => String(n).padStart(2, '0')
/** A day as `2026-03-01`, on this machine's calendar. */
export const day = (d: Date) => `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())}`
const sizeOf = (o: Output) => (o.video ? `${o.video.width}x${o.video.height}` : 'sound')
const label = (frames: Frames, base: TimeBase) => formatTimecode(frames, base).replace(/[:;]/g, '')
const startOf = (c: NameContext) => label(c.output.start.frames, fileBase(c))
function sourceStartOf(c: NameContext): string {
  const place = c.taken()
  return place ? label(place.frames, place) : ''
}

/** What can stand in a pattern, in the order it is offered: a new field is a line here. */
export const nameFields = {
  show: field('show', (c) => c.show),
  timeline: field('timeline', (c) => c.timeline.name),
  region: field('region', (c) => c.region.name),
  number: field('number of the region, from 01', (c) => c.number),
  outlet: field('outlet', (c) => c.outlet),
  size: field('raster, as 1920x1080', (c) => sizeOf(c.output)),
  height: field('lines of the raster', (c) => String(c.output.video?.height ?? '')),
  rate: field('frame rate', (c) => rateLabel(fileBase(c).rate)),
  codec: field('codec', (c) => c.output.video?.codec ?? c.output.audio?.codec ?? ''),
  channels: field('sound layout', (c) => layoutWord(c.output.audio?.channels ?? 0, c.layout)),
  timecode: field('timecode of the first frame', startOf),
  length: field('length in frames', (c) => String(c.output.frames)),
  date: field('date of the run', (c) => day(c.today)),
  weekday: field('weekday of the run', (c) => c.today.toLocaleDateString('en-GB', { weekday: 'long' })),
  version: field('version, from v01', (c) => versionLabel(c.version)),
  production: field('production number', (c) => c.region.metadata['production number'] ?? ''),
  source: field('source file', (c) => c.source),
  sourcetime: field('source timecode of the region’s first frame', sourceStartOf),
  reel: field('reel of the region’s first frame', (c) => c.taken()?.reel ?? ''),
} as const

export type NameField = keyof typeof nameFields

/**
 * The path a pattern gives, below the outlet's folder, without extension. Unknown fields stay as they are, to be seen.
 */
export function expandPattern(pattern: string, context: NameContext): string {
  return templatePieces(pattern)
    .map((p) => {
      if ('text' in p) return p.text
      if (!(p.field in nameFields)) return `{${p.field}}`
      const value = [...fileSafe(nameFields[p.field as NameField].value(context))]
      return (p.prefix === null ? value : value.slice(0, p.prefix)).join('')
    })
    .join('')
}

/** The folder below each root where files are made: no name leads into it. */
export const scratchName = '.velvet-scratch'

/** Why a relative path cannot be used as a file name, in words; null when it can. */
export function unusable(path: string): string | null {
  const parts = path.split('/')
  if (path.includes('{')) return 'it holds a field that is not known'
  if (path.startsWith('/') || /^[a-z]:/i.test(path)) return 'it begins at the root of a disk'
  for (const part of parts) {
    if (part === '' || /^\.*\.[a-z0-9]+$/i.test(part)) return 'a part of it is empty'
    if (part.toLowerCase() === scratchName) return 'files are made in that folder until they are proven'
    if (part === '.' || part === '..') return 'it leads out of its folder'
    const why = unusablePart(part)
    if (why) return why
  }
  return null
}
