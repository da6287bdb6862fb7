import type { MediaChapter, StartTimecode, TimecodeJump } from '../../media/media'
import { jumpsIn } from '../../media/starttimecode'
import { fail } from '../../problem'
import { makeRate, type Rate } from '../../time/rate'
import { ofDay } from '../../time/midnight'
import { formatTimecode } from '../../time/timecode'
import { definitions } from './labels'
import type { Metadata, ReadSet } from './metadata'
import type { SetKind } from './tags'

// What the metadata of a file says of its programme: its tracks, its timecode, its chapters and its fields.

/** A track of the file's programme. */
export interface Track {
  readonly id: number
  readonly number: number
  readonly definition: string
  readonly descriptor: ReadSet
  /** Edit units before the first that is shown. */
  readonly start: number
  readonly duration: number | null
}

/** A track that is neither pictures nor sound: the kind of its descriptor tells what it is. */
export interface DataOf extends Pick<Track, 'number' | 'start'> {
  readonly kind: SetKind | null
}

/** The programme of a file, out of its packages (SMPTE ST 377-1 annex B). */
export function programmeOf(metadata: Metadata, name: string) {
  const all = [...metadata.values()]
  const material = all.find((s) => s.kind === 'material')
  const source =
    all.find((s) => s.kind === 'source' && metadata.get(s.label('descriptor') ?? '')?.label('essenceContainer')) ??
    fail(
      'mxf.no-metadata',
      'The file does not say what it holds: there is no description of its essence in it.',
      name,
      'It was not closed, or is damaged. Copy it again, or ask for it again.',
    )
  const of = (ids: readonly string[]) => ids.flatMap((id) => metadata.get(id) ?? [])
  const componentsOf = (track: ReadSet) => {
    const sequence = metadata.get(track.label('sequence') ?? '')
    const list = sequence ? of(sequence.list('components')) : []
    return { sequence, list: list.length ? list : sequence ? [sequence] : [] }
  }
  const descriptors = descriptorsOf(metadata, source)
  const shown = material ? of(material.list('tracks')) : []
  const clips = shown
    .flatMap((t) => componentsOf(t).list)
    .filter((c) => c.kind === 'clip' && c.label('sourcePackage') === source.label('packageId'))
  const tracks: Track[] = []
  const data: DataOf[] = []
  let rate: Rate | null = null
  for (const track of of(source.list('tracks'))) {
    const { sequence } = componentsOf(track)
    const definition = family(sequence?.label('definition') ?? '')
    if (!essenceKinds.has(definition)) continue
    const id = track.u32('trackId') ?? 0
    const linked = descriptors.find((d) => d.u32('linkedTrack') === id)
    // where the programme begins in the essence: its clip says
    const clip = clips.find((c) => c.u32('sourceTrack') === id)
    const start = Math.max(0, (clip?.i64('startPosition') ?? 0) + (track.i64('origin') ?? 0))
    const number = track.u32('trackNumber') ?? 0
    if (definition === definitions.data) {
      data.push({ number, start, kind: linked?.kind ?? null })
      continue
    }
    const descriptor = linked ?? descriptors[0]
    if (!descriptor) continue
    const long = descriptor.i64('containerDuration') ?? sequence?.i64('duration') ?? -1
    tracks.push({
      id,
      number,
      definition,
      descriptor,
      start,
      duration: long < 0 ? null : long,
    })
    const own = track.rate('editRate')
    if (definition === definitions.picture || !rate) rate = own ?? rate
  }
  const chapters = shown
    .filter((t) => t.kind === 'eventTrack')
    .flatMap((t) => chaptersOf(t, componentsOf(t).list, rate ?? makeRate(25)))
  const fields = shown.filter((t) => t.kind === 'staticTrack').flatMap((t) => fieldsOf(componentsOf(t).list))
  return {
    source,
    chapters,
    metadata: fields.length ? Object.fromEntries(fields) : null,
    tracks,
    data,
    rate: rate ?? makeRate(25),
    timecode: timecodeOf(
      [...shown, ...of(source.list('tracks'))].map((t) => componentsOf(t).list),
      rate ?? makeRate(25),
    ),
  }
}

/** What tracks of essence hold. */
const essenceKinds = new Set<string>([definitions.picture, definitions.sound, definitions.data])

/** Markers of an event track that say something, as chapters. */
function chaptersOf(track: ReadSet, segments: readonly ReadSet[], rate: Rate): MediaChapter[] {
  const { num, den } = track.rate('eventRate') ?? rate
  const origin = track.i64('eventOrigin') ?? 0
  return segments
    .flatMap((s) => {
      const name = s.text('eventComment')
      const at = s.i64('eventStart')
      // places count edit units: ticks of the rate are as many times its denominator
      return s.kind === 'marker' && name && at !== null ? [{ at: (at - origin) * den, timescale: num, name }] : []
    })
    .sort((a, b) => a.at - b.at)
}

/** Fields of programme metadata in the comments of a static track. */
function fieldsOf(segments: readonly ReadSet[]): [string, string][] {
  return segments.flatMap((s) => {
    const [, name, said] = /^([^=]+)=([^]*)$/.exec(s.text('eventComment') ?? '') ?? []
    return s.kind === 'marker' && name && said !== undefined
      ? [[name.replace(/%3D|%25/g, decodeURIComponent), said] satisfies [string, string]]
      : []
  })
}

/** Labels of definitions without the byte in which registers' versions differ. */
function family(label: string): string {
  const all = Object.values(definitions)
  return all.find((d) => d.slice(0, 14) === label.slice(0, 14) && d.slice(16) === label.slice(16)) ?? label
}

function descriptorsOf(metadata: Metadata, source: ReadSet): ReadSet[] {
  const top = metadata.get(source.label('descriptor') ?? '')
  if (!top) return []
  if (top.kind !== 'multiple') return [top]
  return top.list('subDescriptors').flatMap((id) => metadata.get(id) ?? [])
}

/** The timecode of the first of these tracks that has one, each given as its components. */
function timecodeOf(tracks: readonly (readonly ReadSet[])[], rate: Rate): StartTimecode | null {
  const components = tracks.find((list) => list.some((c) => c.kind === 'timecode')) ?? []
  const [t, ...more] = components.filter((c) => c.kind === 'timecode')
  const base = t?.u16('timecodeBase')
  const startFrames = t?.i64('startTimecode')
  if (!t || !base || startFrames === null || startFrames === undefined) return null
  const dropFrame = t.u8('dropFrame') === 1
  const counted = Math.round(rate.num / rate.den) === base ? rate : makeRate(base)
  const drops = dropFrame && (base === 30 || base === 60) && counted.den === 1001
  const own = { rate: counted, dropFrame: drops }
  return {
    start: formatTimecode(startFrames, own),
    startFrames: ofDay(startFrames, own),
    ...own,
    jumps: jumpsIn(countsOf([t, ...more]), own),
  }
}

/** What the components of a timecode track count for their first frames. */
function countsOf(components: readonly ReadSet[]): TimecodeJump[] {
  let next = 0
  return components.map((c) => {
    const at = next
    next += c.i64('duration') ?? 0
    return { at, count: c.i64('startTimecode') ?? 0 }
  })
}
