import type { Problem } from '../../../problem'
import { framesToSeconds, sameRate, type Frames, type Rate } from '../../../time/rate'
import { isNormal, trimEvent, type Timeline, type TimelineEvent, type TimelineMarker } from '../../model'
import { losses } from '../losses'
import { ours } from './schema'

/** Writes OpenTimelineIO JSON; a document it was read from is written back as it was. */
export function writeOtio(t: Timeline, original?: unknown): { text: string; problems: Problem[] } {
  if (original !== undefined) return { text: `${JSON.stringify(original, null, 2)}\n`, problems: [] }
  const { problems, lose } = losses(t.name, 'Check these transitions.')
  const named = t.events.filter((e) => e.transition?.outgoing).length
  lose(named, 'otio.outgoing', 'The outgoing side of # transitions is not written where it is not the clip before.')
  const document = {
    OTIO_SCHEMA: 'Timeline.1',
    name: t.name,
    metadata: { [ours]: { drop_frame: t.dropFrame } },
    global_start_time: time(t.start, t.rate),
    tracks: {
      OTIO_SCHEMA: 'Stack.1',
      name: 'tracks',
      metadata: {},
      effects: [],
      markers: t.markers.map((m) => marker(m, t.rate)),
      source_range: null,
      children: t.tracks.map((track) => ({
        OTIO_SCHEMA: 'Track.1',
        name: track.name,
        kind: track.kind === 'audio' ? 'Audio' : 'Video',
        metadata: {},
        effects: [],
        markers: [],
        source_range: null,
        children: itemsOf(
          t.events.filter((e) => e.track === track.name && e.kind === track.kind),
          t.rate,
        ),
      })),
    },
  }
  return { text: `${JSON.stringify(document, null, 2)}\n`, problems }
}

const time = (n: Frames, rate: Rate) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: rate.num / rate.den, value: n })
const range = (from: Frames, length: Frames, rate: Rate) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(from, rate),
  duration: time(length, rate),
})
const marker = (m: TimelineMarker, rate: Rate) => ({
  OTIO_SCHEMA: 'Marker.2',
  name: m.name,
  color: 'CYAN',
  metadata: { [ours]: { kind: m.kind } },
  marked_range: range(m.at, m.frames, rate),
})
const gap = (name: string, length: Frames, rate: Rate) => ({
  OTIO_SCHEMA: 'Gap.1',
  name,
  metadata: {},
  effects: [],
  markers: [],
  source_range: range(0, length, rate),
})

/** The items of one track: gaps, transitions and clips one after the other. */
function itemsOf(list: readonly TimelineEvent[], rate: Rate): unknown[] {
  const events = [...list].sort((a, b) => a.record.in - b.record.in)
  const items: unknown[] = []
  let position = 0
  events.forEach((e, i) => {
    // a transition that begins before the cut is written around it again
    const cut = (x: TimelineEvent | undefined) => (x ? x.record.in + (x.transition?.before ?? 0) : Infinity)
    const from = cut(e)
    const next = events[i + 1]
    const to = next && next.record.in === e.record.out ? cut(next) : e.record.out
    if (from > position) items.push(gap('', from - position, rate))
    if (e.transition) {
      const before = e.transition.before ?? 0
      items.push({
        OTIO_SCHEMA: 'Transition.1',
        name: '',
        transition_type: e.transition.kind === 'wipe' ? 'Custom_Transition_Wipe' : 'SMPTE_Dissolve',
        in_offset: time(before, rate),
        out_offset: time(e.transition.frames - before, rate),
        metadata: {},
      })
    }
    const skipped = from - e.record.in
    const part =
      skipped > 0 && e.source ? (trimEvent({ ...e, transition: null }, { in: from, out: e.record.out }) ?? e) : e
    if (to > from) items.push(e.source ? clip(part, to - from, rate) : gap(e.name, to - from, rate))
    position = Math.max(position, to)
  })
  return items
}

function clip(e: TimelineEvent, length: Frames, rate: Rate) {
  const own = {
    ...(e.reel ? { reel: e.reel } : {}),
    ...(e.channels ? { channels: e.channels } : {}),
    ...(e.gain ? { gain: e.gain } : {}),
  }
  const s = e.source!
  const taken = sameRate(s.rate, rate) ? length : Math.round((framesToSeconds(length, rate) * s.rate.num) / s.rate.den)
  return {
    OTIO_SCHEMA: 'Clip.2',
    name: e.name,
    enabled: true,
    metadata: Object.keys(own).length ? { [ours]: own } : {},
    markers: [],
    source_range: range(s.in, taken, s.rate),
    effects: isNormal(e.speed) ? [] : [timeEffect(e)],
    active_media_reference_key: 'DEFAULT_MEDIA',
    media_references: { DEFAULT_MEDIA: reference(e) },
  }
}

const timeEffect = (e: TimelineEvent) =>
  e.speed.num === 0
    ? { OTIO_SCHEMA: 'FreezeFrame.1', name: '', effect_name: 'FreezeFrame', time_scalar: 0, metadata: {} }
    : {
        OTIO_SCHEMA: 'LinearTimeWarp.1',
        name: '',
        effect_name: 'LinearTimeWarp',
        time_scalar: e.speed.num / e.speed.den,
        metadata: {},
      }

const reference = (e: TimelineEvent) =>
  e.file
    ? {
        OTIO_SCHEMA: 'ExternalReference.1',
        name: '',
        target_url: e.file,
        metadata: {},
        available_range: e.available ? range(e.available.in, e.available.out - e.available.in, e.available.rate) : null,
      }
    : { OTIO_SCHEMA: 'MissingReference.1', name: '', metadata: {}, available_range: null }
