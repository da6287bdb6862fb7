import { readFile, stat } from 'node:fs/promises'
import path from 'node:path'
import { defineCommand } from 'citty'
import { mediaTimeBase } from '../core/media/media'
import { openMedia } from '../core/container/registry'
import { fail } from '../core/problem'
import { normalSpeed, timeBase, type Timeline } from '../core/timeline/model'
import { rateLabel, rateText, sameRate } from '../core/time/rate'
import { mulDivRound } from '../core/time/samples'
import { formatLength, formatTimecode } from '../core/time/timecode'
import { openFile } from '../engine/storage/disk'
import type { Linking } from '../core/split/timeline'
import { problemsOf } from '../core/timeline/link/source'
import { readAndLink } from '../engine/timelines/linking'
import { MediaIndex } from '../engine/timelines/mediaindex'
import { Roots } from '../engine/storage/roots'
import { formatNamed } from '../core/timeline/formats/registry'
import type { Problem } from '../core/problem'
import { every, mediaRoots, readRate } from './arguments'
import { attempt } from './attempt'
import { decodeText, plural } from '../core/text'

/** Text of an interchange file, no larger than one can be. */
export async function readText(file: string): Promise<string> {
  const info = await stat(file).catch(() => fail('file.missing', 'There is no such file.', file, 'Check the path.'))
  if (info.size > 64 << 20)
    fail('timeline.too-large', 'This is far larger than any interchange file.', file, 'Choose the list, not the media.')
  const { text, legacy } = decodeText(await readFile(file))
  if (legacy) process.stderr.write(`${file}: The text is not UTF-8; it is read as Windows-1252.\n`)
  return text
}

interface Understood {
  readonly timeline: Timeline
  readonly problems: readonly Problem[]
  readonly linking: Linking | null
  readonly roots: Roots
}

async function understand(file: string, folders: readonly string[], rate: string | undefined): Promise<Understood> {
  const roots = new Roots(mediaRoots(file, folders))
  if (formatNamed(file)) {
    const { read, link } = await readAndLink(
      new MediaIndex(roots),
      await readText(file),
      path.basename(file),
      rate ? readRate(rate) : null,
    )
    return {
      timeline: read.timeline,
      problems: [...read.problems, ...link.linking.sources.flatMap(problemsOf)],
      linking: link.linking,
      roots,
    }
  }
  const source = await openFile(file, file)
  const { info } = await openMedia(source)
  await source.close()
  const v =
    info.video[0] ??
    fail(
      'timeline.no-pictures',
      'There are no pictures in this file, so there is nothing to lay out as a timeline.',
      file,
      'Choose a timeline, or the file that has the pictures.',
    )
  const base = mediaTimeBase(info)!
  const fits = info.timecode !== null && sameRate(base.rate, v.rate)
  const event = {
    track: 'V',
    kind: 'video' as const,
    name: path.basename(file),
    reel: '',
    file,
    source: { in: 0, out: v.frames, rate: v.rate },
    speed: normalSpeed,
    record: { in: 0, out: v.frames },
    transition: null,
  }
  const timeline: Timeline = {
    name: path.basename(file, path.extname(file)),
    rate: v.rate,
    dropFrame: fits && base.dropFrame,
    start: fits ? info.timecode!.startFrames : 0,
    length: v.frames,
    tracks: [{ name: 'V', kind: 'video' }],
    events: [event],
    markers: info.chapters.map((c) => ({
      name: c.name,
      kind: 'chapter',
      at: mulDivRound(c.at, v.rate.num, v.rate.den * c.timescale),
      frames: 0,
    })),
  }
  return { timeline, problems: info.problems, linking: null, roots }
}

/** What was understood, as JSON: everything in frames, rates as fractions. */
export function timelineJson(u: Understood): Record<string, unknown> {
  const t = u.timeline
  return {
    name: t.name,
    rate: rateText(t.rate),
    dropFrame: t.dropFrame,
    start: formatTimecode(t.start, t),
    startFrames: t.start,
    length: t.length,
    tracks: t.tracks,
    events: t.events.map((e, i) => {
      const link = u.linking?.assembly.links[i]?.clip
      const file = link ? u.linking!.assembly.sources[link.source]! : null
      return {
        track: e.track,
        kind: e.kind,
        name: e.name,
        reel: e.reel,
        source: e.source && { in: e.source.in, out: e.source.out, rate: rateText(e.source.rate) },
        record: e.record,
        speed: e.speed.num / e.speed.den,
        transition: e.transition && { kind: e.transition.kind, frames: e.transition.frames },
        link: link && file ? { file: u.roots.resolve(file.root, file.path), offset: link.offset } : null,
      }
    }),
    markers: t.markers,
    problems: u.problems.map((p) => ({ code: p.code, message: p.message, where: p.where ?? null })),
  }
}

function timelineText(u: Understood): string {
  const t = u.timeline
  const lines = [
    `${t.name}: ${rateLabel(t.rate)}${t.dropFrame ? ' drop-frame' : ''}, starts ${formatTimecode(t.start, t)}, ` +
      `${formatLength(t.length, timeBase(t))} long, ${plural(t.events.length, 'event')} on ` +
      `${t.tracks.map((x) => x.name).join(' ') || 'no track'}, ${plural(t.markers.length, 'marker')}`,
  ]
  if (u.linking)
    lines.push(`${u.linking.sources.filter((s) => s.linked).length} of ${u.linking.sources.length} sources linked`)
  t.events.forEach((e, i) => {
    const link = u.linking?.assembly.links[i]?.clip
    const file = link ? u.linking!.assembly.sources[link.source]!.path : e.source && u.linking ? 'no media' : ''
    const record = `${formatTimecode(t.start + e.record.in, t)} ${formatTimecode(t.start + e.record.out, t)}`
    const base = e.source && { rate: e.source.rate, dropFrame: e.source.dropFrame ?? false }
    const source = base ? formatTimecode(e.source!.in, base) : 'black      '
    const transition = e.transition ? `${e.transition.kind} ${e.transition.frames}  ` : ''
    const speed = e.speed.num === e.speed.den ? '' : `speed ${e.speed.num}/${e.speed.den}  `
    lines.push(`${e.track.padEnd(4)} ${record}  ${source}  ${transition}${speed}${e.name || e.reel}  ${file}`)
  })
  for (const m of t.markers) lines.push(`${m.kind.padEnd(8)} ${formatTimecode(t.start + m.at, t)} ${m.name}`)
  return lines.join('\n')
}

export const timelineCommand = defineCommand({
  meta: { name: 'timeline', description: 'What an edited timeline says, and which media answers to it.' },
  args: {
    file: {
      type: 'positional',
      required: true,
      description: 'edit decision list, OpenTimelineIO, composition playlist, CSV, WebVTT or media file',
    },
    media: { type: 'string', description: 'folder to look for media in; may be repeated' },
    rate: { type: 'string', description: 'frame rate of a list that does not say its own' },
    json: { type: 'boolean', description: 'as JSON' },
  },
  run: ({ args }) =>
    attempt(async () => {
      const u = await understand(path.resolve(args.file), every('--media'), args.rate)
      process.stdout.write(`${args.json ? JSON.stringify(timelineJson(u), null, 2) : timelineText(u)}\n`)
      if (!args.json) for (const p of u.problems) process.stderr.write(`${p.where ?? ''}: ${p.message}\n`)
      return 0
    }),
})
