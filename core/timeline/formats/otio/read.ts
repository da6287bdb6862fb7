import { fail, type Problem } from '../../../problem'
import { makeRate, nominalRate, type Rate } from '../../../time/rate'
import { canDropFrame } from '../../../time/timecode'
import type { Timeline, TimelineEvent, Track } from '../../model'
import { OtioLayout, type LaidEvent } from './layout'
import { at, deepest, isObject, list, ours, rangeOf, schemaOf, text, timeOf, type Json } from './schema'

/** The rate most clips count at, for a timeline that does not say. */
function rateIn(value: unknown, depth = 0): Rate | null {
  if (depth > deepest || typeof value !== 'object' || value === null) return null
  if (isObject(value) && schemaOf(value) === 'Clip') {
    const range =
      rangeOf(value.source_range) ??
      rangeOf(isObject(value.media_reference) ? value.media_reference.available_range : null)
    if (range) return range.duration.rate
  }
  for (const v of Array.isArray(value) ? value : [(value as Json).tracks, (value as Json).children]) {
    const r = v === undefined || v === null ? null : rateIn(v, depth + 1)
    if (r) return r
  }
  return null
}

/**
 * Whether clips of two levels share a track: dotted numbers, such as V2.1 for the first layer of what lies nested in
 * V2.
 */
function trackName(kind: 'video' | 'audio', level: readonly number[]): string {
  const significant = [...level]
  while (significant.length > 1 && significant.at(-1) === 1) significant.pop()
  const number = significant.join('.')
  return kind === 'video' ? `V${number === '1' ? '' : number}` : `A${number}`
}

/** Gives laid events their tracks' names, and lists the tracks, the topmost last. */
function named(laid: readonly LaidEvent[]): { events: TimelineEvent[]; tracks: Track[] } {
  const names = new Map<string, { kind: 'video' | 'audio'; level: readonly number[] }>()
  const events = laid.map(({ level, ...e }): TimelineEvent => {
    const track = trackName(e.kind, level)
    names.set(track, { kind: e.kind, level })
    return { ...e, track }
  })
  const compare = (a: readonly number[], b: readonly number[]) => {
    for (let i = 0; i < Math.max(a.length, b.length); i++)
      if ((a[i] ?? 0) !== (b[i] ?? 0)) return (a[i] ?? 0) - (b[i] ?? 0)
    return 0
  }
  const tracks = [...names]
    .sort(([, a], [, b]) => (a.kind === b.kind ? compare(a.level, b.level) : a.kind === 'video' ? -1 : 1))
    .map(([name, { kind }]): Track => ({ name, kind }))
  return { events, tracks }
}

/**
 * Reads OpenTimelineIO JSON: nested stacks and timelines are laid out flat, the topmost last; gaps, transitions, linear
 * time warps, markers of any level. Unknown schemas and metadata stay in `original` and are written back as they were.
 */
export function readOtio(
  source: string,
  fileName: string,
): { timeline: Timeline; problems: Problem[]; original: unknown } {
  let document: unknown
  try {
    document = JSON.parse(source.replace(/^\uFEFF/, ''))
  } catch (e) {
    const place = /position (\d+)/.exec((e as Error).message)?.[1]
    fail(
      'otio.json',
      'This is not JSON from beginning to end.',
      place ? `${fileName}, byte ${place}` : fileName,
      'The file is damaged or was not written completely; write it again.',
    )
  }
  let top = document
  if (schemaOf(top) === 'SerializableCollection')
    top = list((top as Json).children).find((c) => schemaOf(c) === 'Timeline')
  const others = list(isObject(document) ? document.children : null).filter(
    (c) => schemaOf(c) === 'Timeline' && c !== top,
  )
  const schema = schemaOf(top)
  if (!isObject(top) || !['Timeline', 'Stack', 'Track'].includes(schema))
    fail('otio.no-timeline', 'There is no timeline in this file.', fileName, 'Write the timeline, not a single clip.')
  const origin = timeOf(top.global_start_time)
  const rate = origin && origin.rate.num / origin.rate.den < 1000 ? origin.rate : (rateIn(top) ?? makeRate(25))
  const reader = new OtioLayout(rate, fileName)
  const laid = reader.item(top, 'video', 0, '')
  const { events, tracks } = named(laid.events)
  const own = isObject(top.metadata) && isObject(top.metadata[ours]) ? top.metadata[ours] : {}
  // the format does not tell how it labels: a start on a full hour without dropping is taken as said, else labels are
  // dropped
  const dropFrame =
    canDropFrame(rate) &&
    (typeof own.drop_frame === 'boolean'
      ? own.drop_frame
      : at(origin, rate) % (nominalRate(rate) * 3600) !== 0 || at(origin, rate) === 0)
  if (schemaOf(document) === 'SerializableCollection' && others.length > 0)
    reader.problems.push({
      code: 'otio.more-timelines',
      message: `There are ${others.length + 1} timelines in this file; only “${text(top.name)}”, the first, is read.`,
      where: fileName,
      fix: `Write the others to files of their own: ${others.map((c) => text((c as Json).name)).join(', ')}.`,
    })
  if (events.length === 0 && reader.problems.length === 0)
    reader.problems.push({
      code: 'otio.empty',
      message: 'There are no clips on this timeline.',
      where: fileName,
      fix: 'Check that the right timeline was written.',
    })
  const markers = laid.markers
    .filter((m, i) => laid.markers.findIndex((x) => x.at === m.at && x.name === m.name && x.kind === m.kind) === i)
    .sort((a, b) => a.at - b.at)
  return {
    timeline: {
      name: text(top.name) || fileName.replace(/\.[^.]*$/, ''),
      rate,
      dropFrame,
      start: at(origin, rate),
      length: laid.length,
      tracks,
      events,
      markers,
    },
    problems: reader.problems,
    original: document,
  }
}
