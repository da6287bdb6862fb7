import { XMLValidator } from 'fast-xml-parser'
import { describe, expect, it } from 'vitest'
import { makeRate } from '../../time/rate'
import { formatOf, formats, readInterchange, writeInterchange } from './registry'
import { normalSpeed, type Timeline, type TimelineEvent } from '../model'

const rate = makeRate(30000, 1001)
const event = (track: string, from: number, to: number, more: Partial<TimelineEvent> = {}): TimelineEvent => ({
  track,
  kind: track.startsWith('A') ? 'audio' : 'video',
  name: `Fog Bell ${from}`,
  reel: 'R12',
  file: 'cards/fog, bell.mov',
  source: { in: 108000 + from, out: 108000 + to, rate, dropFrame: true },
  speed: normalSpeed,
  record: { in: from, out: to },
  transition: null,
  ...more,
})
/** What every format should keep in its own way. */
const rich: Timeline = {
  name: 'Almanac & “Tides”',
  rate,
  dropFrame: true,
  start: 107892,
  length: 400,
  tracks: [
    { name: 'V', kind: 'video' },
    { name: 'V2', kind: 'video' },
    { name: 'A1', kind: 'audio' },
    { name: 'A2', kind: 'audio' },
  ],
  events: [
    event('V', 0, 100),
    event('V', 100, 200, { transition: { kind: 'dissolve', frames: 12 } }),
    event('V', 200, 300, { speed: { num: 1, den: 2 }, source: { in: 500, out: 550, rate, dropFrame: true } }),
    event('V', 350, 400),
    event('V2', 40, 60, { reel: 'TITLES' }),
    event('A1', 0, 400, { channels: [0] }),
    event('A2', 0, 400, { channels: [1], gain: -6 }),
  ],
  markers: [
    { name: 'Gannets, "many"', kind: 'chapter', at: 120, frames: 0 },
    { name: 'check', kind: 'marker', at: 200, frames: 24 },
  ],
}

const gist = (t: Timeline) =>
  t.events
    .map(
      (e) =>
        `${e.track} ${e.record.in}-${e.record.out} ${e.source?.in ?? '-'} ${e.speed.num}/${e.speed.den} ` +
        `${e.transition?.kind ?? ''}${e.transition?.frames ?? ''}`,
    )
    .sort()

describe('round trips', () => {
  it.each(['edl', 'otio', 'csv'] as const)('%s keeps events, sources, speeds, transitions and the start', (format) => {
    const { text } = writeInterchange({ timeline: rich }, format)
    expect(formatOf(text)!.name).toBe(format)
    const back = readInterchange(text, `almanac${formats.find((f) => f.name === format)!.extensions[0]!}`, rate)
    expect(back.problems).toEqual([])
    expect(gist(back.timeline)).toEqual(gist(rich))
    expect([back.timeline.start, back.timeline.dropFrame, back.timeline.length, back.timeline.rate]).toEqual([
      rich.start,
      true,
      400,
      rate,
    ])
    expect(back.timeline.markers.map((m) => [m.name, m.kind, m.at, m.frames])).toEqual(
      rich.markers.map((m) => [m.name, m.kind, m.at, m.frames]),
    )
    expect(back.timeline.events.every((e) => e.file === 'cards/fog, bell.mov')).toBe(true)
    // writing what was read changes nothing any more
    expect(writeInterchange(back, format).text).toBe(
      writeInterchange(readInterchange(writeInterchange(back, format).text, 'again', rate), format).text,
    )
  })
  it('says what a format cannot hold', () => {
    const codes = (format: string) => writeInterchange({ timeline: rich }, format).problems.map((p) => p.code)
    expect(codes('edl')).toEqual(['edl.layers', 'edl.gain'])
    expect(codes('otio')).toEqual([])
    expect(codes('cpl')).toEqual(['cpl.transitions', 'cpl.speed', 'cpl.gain', 'cpl.reel', 'cpl.gaps'])
    expect(codes('vtt')).toEqual(['vtt.events'])
  })
  it('writes composition playlists that are well-formed and read back', () => {
    const plain: Timeline = {
      ...rich,
      tracks: rich.tracks.slice(0, 1),
      events: [event('V', 0, 100), event('V', 100, 400)],
    }
    const { text, problems } = writeInterchange({ timeline: plain }, 'cpl')
    expect(XMLValidator.validate(text)).toBe(true)
    expect(problems.map((p) => p.code)).toEqual(['cpl.reel'])
    const back = readInterchange(text, 'x.xml').timeline
    expect([back.name, back.start, back.dropFrame, back.rate]).toEqual([rich.name, rich.start, true, rate])
    expect(back.events.map((e) => [e.record, e.source!.in])).toEqual(plain.events.map((e) => [e.record, e.source!.in]))
    expect(back.markers.map((m) => [m.name, m.at])).toEqual(rich.markers.map((m) => [m.name, m.at]))
  })
  it('keeps chapters in WebVTT', () => {
    const back = readInterchange(writeInterchange({ timeline: rich }, 'vtt').text, 'c.vtt', rate).timeline
    expect(back.markers.map((m) => [m.name, m.at])).toEqual(rich.markers.map((m) => [m.name, m.at]))
  })
})

describe('OpenTimelineIO', () => {
  const time = (value: number, r = 25) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: r })
  const range = (from: number, n: number, r = 25) => ({
    OTIO_SCHEMA: 'TimeRange.1',
    start_time: time(from, r),
    duration: time(n, r),
  })
  const clip = (name: string, from: number, n: number, more: object = {}) => ({
    OTIO_SCHEMA: 'Clip.1',
    name,
    source_range: range(from, n),
    media_reference: {
      OTIO_SCHEMA: 'ExternalReference.1',
      target_url: `file:///cards/${name}.mov`,
      available_range: range(0, 5000),
    },
    ...more,
  })
  const track = (kind: string, children: object[]) => ({ OTIO_SCHEMA: 'Track.1', kind, name: kind, children })
  const timeline = (children: object[], more: object = {}) => ({
    OTIO_SCHEMA: 'Timeline.1',
    name: 'Season',
    global_start_time: time(90000),
    tracks: { OTIO_SCHEMA: 'Stack.1', children },
    ...more,
  })
  const read = (document: object) => readInterchange(JSON.stringify(document), 's.otio')

  it('lays out gaps, transitions around the cut, time warps and markers at any level', () => {
    const r = read(
      timeline([
        track('Video', [
          clip('a', 100, 50, { markers: [{ OTIO_SCHEMA: 'Marker.2', name: 'in a', marked_range: range(110, 5) }] }),
          { OTIO_SCHEMA: 'Transition.1', transition_type: 'SMPTE_Dissolve', in_offset: time(5), out_offset: time(7) },
          clip('b', 200, 50),
          { OTIO_SCHEMA: 'Gap.1', source_range: range(0, 10) },
          clip('c', 300, 20, { effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: -2 }] }),
        ]),
      ]),
    )
    expect(r.problems).toEqual([])
    expect(r.timeline.events.map((e) => [e.name, e.record.in, e.record.out, e.source!.in, e.speed.num])).toEqual([
      ['a', 0, 45, 100, 1],
      ['b', 45, 100, 195, 1],
      ['c', 110, 130, 300, -2],
    ])
    expect(r.timeline.events[1]!.transition).toEqual({ kind: 'dissolve', frames: 12, before: 5 })
    expect(r.timeline.markers).toEqual([{ name: 'in a', kind: 'marker', at: 10, frames: 5 }])
    expect([r.timeline.start, r.timeline.length]).toEqual([90000, 130])
  })
  it('holds timelines one after the other, as a season goes out', () => {
    const part = (name: string) =>
      timeline(
        [
          track('Video', [clip(`${name}-1`, 0, 30), clip(`${name}-2`, 0, 20)]),
          track('Audio', [clip(`${name}-s`, 0, 50)]),
        ],
        { name },
      )
    const r = read(timeline([track('Video', [part('One'), part('Two')])]))
    expect(r.timeline.events.filter((e) => e.kind === 'video').map((e) => [e.name, e.record.in])).toEqual([
      ['One-1', 0],
      ['One-2', 30],
      ['Two-1', 50],
      ['Two-2', 80],
    ])
    expect(r.timeline.events.filter((e) => e.kind === 'audio').map((e) => [e.name, e.record.in])).toEqual([
      ['One-s', 0],
      ['Two-s', 50],
    ])
    expect(r.timeline.markers.filter((m) => m.kind === 'part').map((m) => [m.name, m.at, m.frames])).toEqual([
      ['One', 0, 50],
      ['Two', 50, 50],
    ])
  })
  it('keeps unknown schemas and metadata and writes them back as they were', () => {
    const document = timeline([
      track('Video', [
        clip('a', 0, 10, { metadata: { grade: { lift: [1, 2, 3] } } }),
        { OTIO_SCHEMA: 'LighthouseBeam.7', source_range: range(0, 5), sweep: 12 },
        clip('b', 0, 10),
      ]),
    ])
    const r = read(document)
    expect(r.problems.map((p) => p.code)).toEqual(['otio.unknown'])
    expect(r.timeline.events.map((e) => e.record.in)).toEqual([0, 15])
    expect(JSON.parse(writeInterchange(r, 'otio').text)).toEqual(document)
  })
})

describe('composition playlists', () => {
  it('refuses document types and entities', () => {
    expect(() =>
      readInterchange('<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaa">]><CompositionPlaylist/>', 'x.xml'),
    ).toThrow('document type')
  })
})
