import { fail, type Problem } from '../../../problem'
import { makeRate, type Frames, type Rate } from '../../../time/rate'
import { mulDivRound } from '../../../time/samples'
import { canDropFrame, formatTimecode, parseTimecode, type TimeBase } from '../../../time/timecode'
import { normalSpeed, type Timeline, type TimelineEvent, type TimelineMarker, type Track } from '../../model'
import { children, find, parseXml, valueOf } from '../../../xml'

function rateOf(value: string): Rate | null {
  const m = /^(\d{1,9})\s+(\d{1,9})$/.exec(value)
  return m && Number(m[1]) > 0 && Number(m[2]) > 0 ? makeRate(Number(m[1]), Number(m[2])) : null
}

function whole(value: string): number | null {
  return /^\d{1,15}$/.test(value) ? Number(value) : null
}

/**
 * Reads a composition playlist (SMPTE ST 2067-3): virtual tracks of pictures and sound as tracks, their resources as
 * events, markers, composition timecode.
 */
export function readCpl(source: string, fileName: string): { timeline: Timeline; problems: Problem[] } {
  const root =
    find(parseXml(source, fileName), 'CompositionPlaylist') ??
    fail('cpl.none', 'There is no composition playlist in this file.', fileName, 'Choose the playlist itself.')
  const rate =
    rateOf(valueOf(root, 'EditRate')) ??
    fail(
      'cpl.rate',
      `“${valueOf(root, 'EditRate')}” is no edit rate.`,
      `${fileName}, EditRate`,
      'Write it as two whole numbers, such as 25 1.',
    )
  const clock = find(root, 'CompositionTimecode')
  const drop = clock !== null && canDropFrame(rate) && /^(1|true)$/i.test(valueOf(clock, 'TimecodeDropFrame'))
  const start = clock ? parseTimecode(valueOf(clock, 'TimecodeStartAddress'), { rate, dropFrame: drop }) : null
  const reader = new CplReader({ rate, dropFrame: drop }, start ?? 0, fileName)
  for (const segment of children(find(root, 'SegmentList') ?? []).filter((c) => c.name === 'Segment'))
    reader.segment(segment.node)
  const timeline = reader.finish(valueOf(root, 'ContentTitle') || fileName.replace(/\.[^.]*$/, ''))
  return { timeline, problems: reader.problems }
}

/** One resource of a sequence: what it takes of its file, in units of its own edit rate, and its frames here. */
interface Resource {
  readonly node: unknown[]
  readonly own: Rate
  readonly entry: number
  readonly duration: number
  readonly intrinsic: number
  readonly frames: Frames
  readonly repeats: number
}

class CplReader {
  readonly problems: Problem[] = []
  private readonly events: TimelineEvent[] = []
  private readonly markers: TimelineMarker[] = []
  private readonly tracks = new Map<string, Track>()
  private readonly seen = { video: 0, audio: 0 }
  private position: Frames = 0

  constructor(
    private readonly base: TimeBase,
    private readonly start: Frames,
    private readonly fileName: string,
  ) {}

  private complain(code: string, message: string, where: string, fix: string): void {
    if (this.problems.length < 200) this.problems.push({ code, message, where: `${this.fileName}, ${where}`, fix })
  }

  /** Lays the sequences of a segment beside each other, after what came before. */
  segment(segment: unknown[]): void {
    let longest = 0
    for (const { name, node } of children(find(segment, 'SequenceList') ?? []))
      longest = Math.max(longest, this.sequence(name, node))
    this.position += longest
  }

  /** Takes in one sequence; gives its length in frames. */
  private sequence(name: string, node: unknown[]): Frames {
    const kind = /Image/.test(name) ? 'video' : /Audio/.test(name) ? 'audio' : null
    const id = valueOf(node, 'TrackId') || `${name} ${this.seen.video + this.seen.audio}`
    if (kind && !this.tracks.has(id))
      this.tracks.set(id, { kind, name: `${kind === 'video' ? 'V' : 'A'}${++this.seen[kind]}` })
    let at = this.position
    for (const part of children(find(node, 'ResourceList') ?? []).filter((c) => c.name === 'Resource')) {
      const resource = this.resource(part.node)
      for (let n = resource?.repeats ?? 0; resource && n > 0; n--) {
        if (name === 'MarkerSequence') this.mark(resource, at)
        else if (kind) this.place(resource, this.tracks.get(id)!, at)
        at += resource.frames
      }
    }
    if (!kind && name !== 'MarkerSequence')
      this.complain(
        'cpl.sequence',
        `A ${name} is not used here.`,
        `Segment at ${formatTimecode(this.start + this.position, this.base)}`,
        'Nothing needs doing when it carries neither pictures nor sound.',
      )
    return at - this.position
  }

  private resource(node: unknown[]): Resource | null {
    const own = rateOf(valueOf(node, 'EditRate')) ?? this.base.rate
    const intrinsic = whole(valueOf(node, 'IntrinsicDuration'))
    const entry = whole(valueOf(node, 'EntryPoint')) ?? 0
    const duration = whole(valueOf(node, 'SourceDuration')) ?? (intrinsic === null ? null : intrinsic - entry)
    if (intrinsic === null || duration === null || duration <= 0 || entry + duration > intrinsic) {
      this.complain(
        'cpl.duration',
        'The entry point and durations of a resource do not fit together; it is left out.',
        `Resource ${valueOf(node, 'Id') || '?'}`,
        'Write the playlist again.',
      )
      return null
    }
    const repeats = Math.min(10_000, whole(valueOf(node, 'RepeatCount')) ?? 1)
    return { node, own, entry, duration, intrinsic, frames: this.framesOf(duration, own), repeats }
  }

  private framesOf(units: number, own: Rate): Frames {
    const { rate } = this.base
    return mulDivRound(units, own.den * rate.num, own.num * rate.den)
  }

  private mark(r: Resource, at: Frames): void {
    for (const m of children(r.node).filter((c) => c.name === 'Marker')) {
      const offset = whole(valueOf(m.node, 'Offset'))
      if (offset === null || offset < r.entry || offset >= r.entry + r.duration) continue
      this.markers.push({
        kind: 'marker',
        name: valueOf(m.node, 'Annotation') || valueOf(m.node, 'Label'),
        at: at + this.framesOf(offset - r.entry, r.own),
        frames: 0,
      })
    }
  }

  private place(r: Resource, track: Track, at: Frames): void {
    const file = valueOf(r.node, 'TrackFileId').replace(/^urn:uuid:/i, '')
    // sound resources count samples; a source is counted in frames of the composition
    const counted = r.own.num / r.own.den > 1000
    const rate = counted ? this.base.rate : r.own
    const toFrames = (v: number) => (counted ? this.framesOf(v, r.own) : v)
    const first = toFrames(r.entry)
    this.events.push({
      track: track.name,
      kind: track.kind,
      name: valueOf(r.node, 'Annotation'),
      reel: '',
      file: file || null,
      speed: normalSpeed,
      transition: null,
      record: { in: at, out: at + r.frames },
      source: { in: first, out: first + toFrames(r.duration), rate },
      available: { in: 0, out: toFrames(r.intrinsic), rate },
    })
  }

  finish(name: string): Timeline {
    if (this.events.length === 0 && this.problems.length === 0)
      this.problems.push({
        code: 'cpl.empty',
        message: 'There are no pictures and no sound in this playlist.',
        where: this.fileName,
        fix: 'Check that it was written completely.',
      })
    return {
      name,
      ...this.base,
      start: this.start,
      length: this.position,
      tracks: [...this.tracks.values()].sort((a, b) => (a.kind === b.kind ? 0 : a.kind === 'video' ? -1 : 1)),
      events: this.events,
      markers: this.markers,
    }
  }
}
