import type { TimelineFormat } from './format'
import { XMLParser, XMLValidator } from 'fast-xml-parser'
import { fail, type Problem } from '../../problem'
import { makeRate, sameRate, type Frames, type Rate } from '../../time/rate'
import { mulDivRound } from '../../time/samples'
import { canDropFrame, formatTimecode, parseTimecode } from '../../time/timecode'
import { losses } from './losses'
import { isNormal, normalSpeed, type Timeline, type TimelineEvent, type TimelineMarker, type Track } from '../model'

type Node = Record<string, unknown>
const namespace = 'http://www.smpte-ra.org/schemas/2067-3/2016'
const isNode = (v: unknown): v is Node => typeof v === 'object' && v !== null && !Array.isArray(v)
const all = (v: unknown): unknown[] => (v === undefined || v === null || v === '' ? [] : Array.isArray(v) ? v : [v])
const entities: Record<string, string> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" }

/** The text of an element; the five entities of XML and numeric ones are resolved here, no others. */
function text(v: unknown): string {
  const raw = isNode(v) ? v['#text'] : v
  return typeof raw === 'string'
    ? raw
        .trim()
        .replace(/&(?:#(\d{1,7})|#x([\da-f]{1,6})|(\w+));/gi, (whole, dec: string, hex: string, name: string) => {
          if (name) return entities[name] ?? whole
          const code = dec ? Number(dec) : parseInt(hex, 16)
          return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : whole
        })
    : ''
}

/** Child elements in document order: the sequences of a segment have different names and their order counts. */
function children(ordered: unknown): { name: string; node: unknown[] }[] {
  return all(ordered).flatMap((o) =>
    isNode(o)
      ? Object.entries(o)
          .filter(([k]) => k !== ':@' && k !== '#text')
          .map(([name, node]) => ({ name, node: all(node) }))
      : [],
  )
}
const find = (node: unknown[], name: string): unknown[] | null =>
  children(node).find((c) => c.name === name)?.node ?? null
const textOf = (node: unknown[] | null): string => (node ? text(node.find((n) => isNode(n) && '#text' in n)) : '')
const valueOf = (node: unknown[], name: string) => textOf(find(node, name))

function rateOf(value: string): Rate | null {
  const m = /^(\d{1,9})\s+(\d{1,9})$/.exec(value)
  return m && Number(m[1]) > 0 && Number(m[2]) > 0 ? makeRate(Number(m[1]), Number(m[2])) : null
}

function whole(value: string): number | null {
  return /^\d{1,15}$/.test(value) ? Number(value) : null
}

/**
 * Reads a composition playlist (SMPTE ST 2067-3): virtual tracks of pictures and sound as tracks, their resources as
 * events, markers, composition timecode. No document type is accepted, so that nothing outside the file is ever read.
 */
export function readCpl(source: string, fileName: string): { timeline: Timeline; problems: Problem[] } {
  if (/<!DOCTYPE|<!ENTITY/i.test(source))
    fail(
      'cpl.doctype',
      'The file defines a document type or entities, which a playlist has no use for.',
      fileName,
      'Ask for the playlist without them.',
    )
  const wrong = XMLValidator.validate(source)
  if (wrong !== true)
    fail(
      'cpl.xml',
      `This is not well-formed XML: ${wrong.err.msg}`,
      `${fileName}, line ${wrong.err.line}`,
      'The file is damaged or was not written completely; write it again.',
    )
  let parsed: unknown[]
  try {
    parsed = all(
      new XMLParser({
        preserveOrder: true,
        ignoreAttributes: true,
        removeNSPrefix: true,
        parseTagValue: false,
        processEntities: false,
        trimValues: true,
      }).parse(source),
    )
  } catch (e) {
    fail(
      'cpl.xml',
      `This cannot be read as XML: ${(e as Error).message.slice(0, 120)}`,
      fileName,
      'The file is damaged or was not written completely; write it again.',
    )
  }
  const root =
    find(parsed, 'CompositionPlaylist') ??
    fail('cpl.none', 'There is no composition playlist in this file.', fileName, 'Choose the playlist itself.')
  const rate =
    rateOf(valueOf(root, 'EditRate')) ??
    fail(
      'cpl.rate',
      `“${valueOf(root, 'EditRate')}” is no edit rate.`,
      `${fileName}, EditRate`,
      'Write it as two whole numbers, such as 25 1.',
    )
  const problems: Problem[] = []
  const complain = (code: string, message: string, where: string, fix: string) => {
    if (problems.length < 200) problems.push({ code, message, where: `${fileName}, ${where}`, fix })
  }
  const clock = find(root, 'CompositionTimecode')
  const drop = clock !== null && canDropFrame(rate) && /^(1|true)$/i.test(valueOf(clock, 'TimecodeDropFrame'))
  const start = clock ? parseTimecode(valueOf(clock, 'TimecodeStartAddress'), { rate, dropFrame: drop }) : null
  const events: TimelineEvent[] = []
  const markers: TimelineMarker[] = []
  const tracks = new Map<string, Track>()
  const seen = { video: 0, audio: 0 }
  let position = 0
  for (const segment of children(find(root, 'SegmentList') ?? []).filter((c) => c.name === 'Segment')) {
    let longest = 0
    for (const { name, node } of children(find(segment.node, 'SequenceList') ?? [])) {
      const kind = /Image/.test(name) ? 'video' : /Audio/.test(name) ? 'audio' : null
      const id = valueOf(node, 'TrackId') || `${name} ${seen.video + seen.audio}`
      if (kind && !tracks.has(id)) tracks.set(id, { kind, name: `${kind === 'video' ? 'V' : 'A'}${++seen[kind]}` })
      let at = position
      for (const resource of children(find(node, 'ResourceList') ?? []).filter((c) => c.name === 'Resource')) {
        const where = `Resource ${valueOf(resource.node, 'Id') || '?'}`
        const own = rateOf(valueOf(resource.node, 'EditRate')) ?? rate
        const intrinsic = whole(valueOf(resource.node, 'IntrinsicDuration'))
        const entry = whole(valueOf(resource.node, 'EntryPoint')) ?? 0
        const duration =
          whole(valueOf(resource.node, 'SourceDuration')) ?? (intrinsic === null ? null : intrinsic - entry)
        if (intrinsic === null || duration === null || duration <= 0 || entry + duration > intrinsic) {
          complain(
            'cpl.duration',
            'The entry point and durations of a resource do not fit together; it is left out.',
            where,
            'Write the playlist again.',
          )
          continue
        }
        const frames = mulDivRound(duration, own.den * rate.num, own.num * rate.den)
        for (let n = Math.min(10_000, whole(valueOf(resource.node, 'RepeatCount')) ?? 1); n > 0; n--) {
          if (name === 'MarkerSequence') {
            for (const m of children(resource.node).filter((c) => c.name === 'Marker')) {
              const offset = whole(valueOf(m.node, 'Offset'))
              if (offset === null || offset < entry || offset >= entry + duration) continue
              markers.push({
                kind: 'marker',
                name: valueOf(m.node, 'Annotation') || valueOf(m.node, 'Label'),
                at: at + mulDivRound(offset - entry, own.den * rate.num, own.num * rate.den),
                frames: 0,
              })
            }
          } else if (kind) {
            const file = valueOf(resource.node, 'TrackFileId').replace(/^urn:uuid:/i, '')
            // sound resources count samples; a source is counted in frames of the composition
            const toFrames = (v: number) =>
              own.num / own.den > 1000 ? mulDivRound(v, own.den * rate.num, own.num * rate.den) : v
            const first = toFrames(entry)
            const sourceRate = own.num / own.den > 1000 ? rate : own
            events.push({
              track: tracks.get(id)!.name,
              kind,
              name: valueOf(resource.node, 'Annotation'),
              reel: '',
              file: file || null,
              speed: normalSpeed,
              transition: null,
              record: { in: at, out: at + frames },
              source: { in: first, out: first + toFrames(duration), rate: sourceRate },
              available: { in: 0, out: toFrames(intrinsic), rate: sourceRate },
            })
          }
          at += frames
        }
      }
      if (!kind && name !== 'MarkerSequence')
        complain(
          'cpl.sequence',
          `A ${name} is not used here.`,
          `Segment at ${formatTimecode((start ?? 0) + position, { rate, dropFrame: drop })}`,
          'Nothing needs doing when it carries neither pictures nor sound.',
        )
      longest = Math.max(longest, at - position)
    }
    position += longest
  }
  if (events.length === 0 && problems.length === 0)
    problems.push({
      code: 'cpl.empty',
      message: 'There are no pictures and no sound in this playlist.',
      where: fileName,
      fix: 'Check that it was written completely.',
    })
  return {
    timeline: {
      name: valueOf(root, 'ContentTitle') || fileName.replace(/\.[^.]*$/, ''),
      rate,
      dropFrame: drop,
      start: start ?? 0,
      length: position,
      tracks: [...tracks.values()].sort((a, b) => (a.kind === b.kind ? 0 : a.kind === 'video' ? -1 : 1)),
      events,
      markers,
    },
    problems,
  }
}

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
  const rate = `${t.rate.num} ${t.rate.den}`
  const uuid = /^[\da-f]{8}(-[\da-f]{4}){3}-[\da-f]{12}$/i
  const fileId = (e: TimelineEvent) =>
    e.file && uuid.test(e.file) ? `urn:uuid:${e.file}` : identifier(e.file ?? e.reel ?? e.name)
  let gaps = 0
  const sequences = t.tracks.map((track) => {
    const kind = track.kind === 'video' ? 'MainImageSequence' : 'MainAudioSequence'
    let at = 0
    const resources = t.events
      .filter((e) => e.track === track.name && e.kind === track.kind)
      .sort((a, b) => a.record.in - b.record.in)
      .map((e, i) => {
        if (!e.source || e.record.in !== at) gaps++
        at = e.record.out
        if (!e.source) return ''
        const r = e.source.rate
        const length = sameRate(r, t.rate) ? e.record.out - e.record.in : e.source.out - e.source.in
        const intrinsic: Frames = Math.max(e.available?.out ?? 0, e.source.in + length)
        return `          <Resource xsi:type="TrackFileResourceType">
            <Id>${identifier(`${t.name}/${track.name}/${i}`)}</Id>
            <Annotation>${escape(e.name)}</Annotation>
            <EditRate>${r.num} ${r.den}</EditRate>
            <IntrinsicDuration>${intrinsic}</IntrinsicDuration>
            <EntryPoint>${e.source.in}</EntryPoint>
            <SourceDuration>${length}</SourceDuration>
            <SourceEncoding>${fileId(e)}</SourceEncoding>
            <TrackFileId>${fileId(e)}</TrackFileId>
          </Resource>`
      })
      .filter(Boolean)
    if (at < t.length) gaps++
    return `        <${kind} xmlns="http://www.smpte-ra.org/ns/2067-2/2020">
          <Id>${identifier(`${t.name}/${track.name}/sequence`)}</Id>
          <TrackId>${identifier(`${t.name}/${track.name}`)}</TrackId>
          <ResourceList xmlns="${namespace}">
${resources.join('\n')}
          </ResourceList>
        </${kind}>`
  })
  lose(gaps, 'cpl.gaps', 'A playlist holds no empty places: # gaps close up.')
  const marks = t.markers.length
    ? `        <MarkerSequence>
          <Id>${identifier(`${t.name}/markers/sequence`)}</Id>
          <TrackId>${identifier(`${t.name}/markers`)}</TrackId>
          <ResourceList>
          <Resource xsi:type="MarkerResourceType">
            <Id>${identifier(`${t.name}/markers/resource`)}</Id>
            <EditRate>${rate}</EditRate>
            <IntrinsicDuration>${t.length}</IntrinsicDuration>
${t.markers
  .map(
    (m) =>
      `            <Marker><Annotation>${escape(m.name)}</Annotation>` +
      `<Label scope="urn:velvet-crane:marker">${m.kind}</Label><Offset>${m.at}</Offset></Marker>`,
  )
  .join('\n')}
          </Resource>
          </ResourceList>
        </MarkerSequence>\n`
    : ''
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
  <EditRate>${rate}</EditRate>
  <SegmentList>
    <Segment>
      <Id>${identifier(`${t.name}/segment`)}</Id>
      <SequenceList>
${marks}${sequences.join('\n')}
      </SequenceList>
    </Segment>
  </SegmentList>
</CompositionPlaylist>
`
  return { text: document, problems }
}

/** Composition playlists (SMPTE ST 2067-3). */
export const cpl: TimelineFormat = {
  name: 'cpl',
  label: 'a composition playlist',
  extensions: ['.xml'],
  holds: 'timeline',
  recognise: (head) => head.startsWith('<') && /<(\w+:)?CompositionPlaylist[\s>/]/.test(head),
  read: (text, fileName) => readCpl(text, fileName),
  write: (timeline) => writeCpl(timeline),
}
