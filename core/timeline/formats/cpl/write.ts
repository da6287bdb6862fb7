import type { Problem } from '../../../problem'
import { sameRate, type Frames } from '../../../time/rate'
import { formatTimecode } from '../../../time/timecode'
import { losses } from '../losses'
import { isNormal, type Timeline, type TimelineEvent, type Track } from '../../model'

const namespace = 'http://www.smpte-ra.org/schemas/2067-3/2016'
const uuid = /^[\da-f]{8}(-[\da-f]{4}){3}-[\da-f]{12}$/i
const escape = (s: string) =>
  s
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    .replace(/[^\t\n\r\x20-\uFFFD\u{10000}-\u{10FFFF}]/gu, '')

/** A name-based identifier of the same text, in the form of a UUID (RFC 9562 version 8). */
function identifier(seed: string): string {
  let h = 0xcbf29ce484222325n
  let hex = ''
  for (let round = 0; round < 2; round++) {
    for (const c of `${round}${seed}`) h = ((h ^ BigInt(c.codePointAt(0)!)) * 0x100000001b3n) & 0xffffffffffffffffn
    hex += h.toString(16).padStart(16, '0')
  }
  const digits = (from: number, to: number) => hex.slice(from, to)
  return `urn:uuid:${digits(0, 8)}-${digits(8, 12)}-8${digits(13, 16)}-a${digits(17, 20)}-${digits(20, 32)}`
}

/**
 * Writes a composition playlist (ST 2067-3) of one segment. Transitions, speeds and gaps have no place in one and are
 * said.
 */
export function writeCpl(t: Timeline): { text: string; problems: Problem[] } {
  const sequences = t.tracks.map((track) => sequenceOf(t, track))
  const document = `<?xml version="1.0" encoding="UTF-8"?>
<CompositionPlaylist xmlns="${namespace}" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance">
  <Id>${identifier(`${t.name}/${t.length}`)}</Id>
  <IssueDate>1970-01-01T00:00:00Z</IssueDate>
  <ContentTitle>${escape(t.name)}</ContentTitle>
  <CompositionTimecode>
    <TimecodeDropFrame>${t.dropFrame ? 1 : 0}</TimecodeDropFrame>
    <TimecodeRate>${Math.round(t.rate.num / t.rate.den)}</TimecodeRate>
    <TimecodeStartAddress>${formatTimecode(t.start, t)}</TimecodeStartAddress>
  </CompositionTimecode>
  <EditRate>${t.rate.num} ${t.rate.den}</EditRate>
  <SegmentList>
    <Segment>
      <Id>${identifier(`${t.name}/segment`)}</Id>
      <SequenceList>
${markerSequence(t)}${sequences.map((s) => s.text).join('\n')}
      </SequenceList>
    </Segment>
  </SegmentList>
</CompositionPlaylist>
`
  const gaps = sequences.reduce((n, s) => n + s.gaps, 0)
  return { text: document, problems: lost(t, gaps) }
}

function lost(t: Timeline, gaps: number): Problem[] {
  const { problems, lose } = losses(t.name, 'Flatten these places, or use OpenTimelineIO.')
  lose(
    t.events.filter((e) => e.transition).length,
    'cpl.transitions',
    'A playlist has no transitions; those of # events are written as cuts.',
  )
  lose(
    t.events.filter((e) => !isNormal(e.speed)).length,
    'cpl.speed',
    'A playlist has no speed changes; those of # events are lost.',
  )
  lose(t.events.filter((e) => e.gain).length, 'cpl.gain', 'A playlist has no sound levels; those of # events are lost.')
  lose(
    t.events.filter((e) => e.reel).length,
    'cpl.reel',
    'A playlist knows files by identifier; the reel names of # events are lost.',
  )
  lose(gaps, 'cpl.gaps', 'A playlist holds no empty places: # gaps close up.')
  return problems
}

/** A track as a sequence of resources, and how many empty places of it close up. */
function sequenceOf(t: Timeline, track: Track): { text: string; gaps: number } {
  const kind = track.kind === 'video' ? 'MainImageSequence' : 'MainAudioSequence'
  let at = 0
  let gaps = 0
  const resources: string[] = []
  t.events
    .filter((e) => e.track === track.name && e.kind === track.kind)
    .sort((a, b) => a.record.in - b.record.in)
    .forEach((e, i) => {
      if (!e.source || e.record.in !== at) gaps++
      at = e.record.out
      if (e.source) resources.push(resourceOf(t, e, identifier(`${t.name}/${track.name}/${i}`)))
    })
  if (at < t.length) gaps++
  const text = `        <${kind} xmlns="http://www.smpte-ra.org/ns/2067-2/2020">
          <Id>${identifier(`${t.name}/${track.name}/sequence`)}</Id>
          <TrackId>${identifier(`${t.name}/${track.name}`)}</TrackId>
          <ResourceList xmlns="${namespace}">
${resources.join('\n')}
          </ResourceList>
        </${kind}>`
  return { text, gaps }
}

function resourceOf(t: Timeline, e: TimelineEvent, id: string): string {
  const source = e.source!
  const length = sameRate(source.rate, t.rate) ? e.record.out - e.record.in : source.out - source.in
  const intrinsic: Frames = Math.max(e.available?.out ?? 0, source.in + length)
  const file = e.file && uuid.test(e.file) ? `urn:uuid:${e.file}` : identifier(e.file ?? e.reel ?? e.name)
  return `          <Resource xsi:type="TrackFileResourceType">
            <Id>${id}</Id>
            <Annotation>${escape(e.name)}</Annotation>
            <EditRate>${source.rate.num} ${source.rate.den}</EditRate>
            <IntrinsicDuration>${intrinsic}</IntrinsicDuration>
            <EntryPoint>${source.in}</EntryPoint>
            <SourceDuration>${length}</SourceDuration>
            <SourceEncoding>${file}</SourceEncoding>
            <TrackFileId>${file}</TrackFileId>
          </Resource>`
}

function markerSequence(t: Timeline): string {
  if (t.markers.length === 0) return ''
  const marks = t.markers.map(
    (m) =>
      `            <Marker><Annotation>${escape(m.name)}</Annotation>` +
      `<Label scope="urn:velvet-crane:marker">${m.kind}</Label><Offset>${m.at}</Offset></Marker>`,
  )
  return `        <MarkerSequence>
          <Id>${identifier(`${t.name}/markers/sequence`)}</Id>
          <TrackId>${identifier(`${t.name}/markers`)}</TrackId>
          <ResourceList>
          <Resource xsi:type="MarkerResourceType">
            <Id>${identifier(`${t.name}/markers/resource`)}</Id>
            <EditRate>${t.rate.num} ${t.rate.den}</EditRate>
            <IntrinsicDuration>${t.length}</IntrinsicDuration>
${marks.join('\n')}
          </Resource>
          </ResourceList>
        </MarkerSequence>\n`
}
