import type { MediaInfo } from '../media/media'
import type { Problem } from '../problem'
import { rateLabel, sameRate, type Frames, type Rate } from '../time/rate'
import { mulDivFloor } from '../time/samples'
import { formatTimecode, timecodeToFrames } from '../time/timecode'
import { sourceFrame, type Clip, type Timeline, type TimelineEvent } from './model'
import { plural } from '../text'

/** A media file that clips may come from. */
export interface MediaFile {
  readonly root: string
  readonly path: string
}

/**
 * Where a clip's frames are: media frame = source frame − offset, at the source's rate; by time where the media runs at
 * another.
 */
export interface Link {
  readonly file: MediaFile
  readonly offset: Frames
}

/** Troubles of a link; `linked` is none. Any but `missing` still has a file. */
export type LinkState = 'linked' | 'ambiguous' | 'short' | 'rate' | 'raster' | 'sound-rate' | 'missing' | 'replaced'

/** Clips that name the same source, and what was found for them. */
export interface Source {
  /** Names the clips have in common; also what a choice is kept under. */
  readonly key: string
  readonly name: string
  readonly reel: string
  readonly file: string | null
  /** Indexes of the events that take from it, as themselves or as the outgoing side of their transition. */
  readonly events: readonly number[]
  readonly state: LinkState
  readonly linked: MediaFile | null
  /** Every file that could be meant, best first. */
  readonly candidates: readonly MediaFile[]
  /** What was looked for, in words. */
  readonly lookedFor: string
  readonly problem: Problem | null
}

export interface Linking {
  /** Beside each event: its own link, and that of its transition's outgoing clip. */
  readonly links: readonly { readonly clip: Link | null; readonly outgoing: Link | null }[]
  readonly sources: readonly Source[]
}

/** What a person chose: files for sources by key, and folders to look into first. */
export interface LinkChoices {
  readonly files: Readonly<Record<string, MediaFile>>
  readonly folders: readonly MediaFile[]
}

export const noChoices: LinkChoices = { files: {}, folders: [] }

const baseOf = (path: string) => path.split(/[\\/]/).at(-1)!
const stemOf = (name: string) => name.replace(/\.[A-Za-z0-9]{1,5}$/, '')
const lower = (s: string) => s.normalize('NFC').toLowerCase()
const same = (a: MediaFile, b: MediaFile) => a.root === b.root && a.path === b.path
const inside = (file: MediaFile, folder: MediaFile) =>
  file.root === folder.root &&
  (folder.path === '' || folder.path === '.' || file.path.startsWith(`${folder.path.replace(/\/+$/, '')}/`))

/** The key under which clips of the same source are taken together. */
export function sourceKey(c: Pick<Clip, 'name' | 'reel' | 'file'>): string {
  const reel = /^(AX|AUX|UNKNOWN)?$/i.test(c.reel) ? '' : c.reel
  return c.file ? `file ${c.file}` : reel ? `reel ${reel}` : `name ${c.name}`
}

/** A file name without the numbers of a run of stills or the channels of a set, as lists may write them too. */
const withoutCount = (name: string) =>
  name.replace(/[._ -]?(\[[^\]]*\]|\{[^}]*\}|#+|%0?\d*d|\d{3,9})(\.[a-z0-9]{1,5})$/i, '$2')

/**
 * How well a file's name answers a clip's names: 0 is best, up to 1 it is the very name; null is not at all.
 */
function nameRank(c: Pick<Clip, 'name' | 'reel' | 'file'>, path: string): number | null {
  const many = /[[{]/.test(baseOf(path))
  const base = lower(many ? withoutCount(baseOf(path)) : baseOf(path))
  const stem = stemOf(base)
  const given = c.file ? lower(c.file.replaceAll('\\', '/')) : null
  const wanted = given && many ? withoutCount(given) : given
  if (wanted) {
    if (`/${many ? lower(withoutCount(path)) : lower(path)}`.endsWith(`/${wanted.replace(/^\/+/, '')}`)) return 0
    if (baseOf(wanted) === base) return 1
    if (stemOf(baseOf(wanted)) === stem) return 2
  }
  const reel = /^(ax|aux|unknown)?$/i.test(c.reel) ? '' : lower(c.reel)
  if (reel && (stem === reel || base === reel)) return 3
  const name = lower(c.name)
  if (name && !wanted && !reel && base === name) return 1
  if (name && (base === name || stem === stemOf(name))) return 4
  if (reel && reel.length >= 2 && stem.startsWith(reel) && /^[^a-z0-9]/.test(stem.slice(reel.length))) return 5
  if (reel && reel.length >= 3 && lower(path).split('/').slice(0, -1).includes(reel)) return 6
  return null
}

/** The frames of a clip's source that an event shows, transition handles included: [in, out). */
function taken(e: TimelineEvent, c: Clip, length: Frames): { in: Frames; out: Frames } {
  const first = sourceFrame(c.source!, c.speed, 0)
  const last = sourceFrame(c.source!, c.speed, Math.max(0, length - 1))
  return { in: Math.min(first, last), out: Math.max(first, last) + 1 }
}

/** Media's own length and label in the frames a clip's source counts in. */
function placeIn(info: MediaInfo, rate: Rate): { start: Frames | null; length: Frames } {
  const v = info.video[0]
  const length =
    v?.rateStated === false
      ? v.frames
      : v
        ? mulDivFloor(v.frames, rate.num * v.rate.den, rate.den * v.rate.num)
        : mulDivFloor(info.audio[0]?.samples ?? 0, rate.num, (info.audio[0]?.sampleRate ?? 48000) * rate.den)
  if (info.timecode) {
    const t = info.timecode
    if (sameRate(t.rate, rate) || v?.rateStated === false) return { start: t.startFrames, length }
    // another rate counts other frames: the label's hours, minutes and seconds are what both share
    const m = /^(\d\d):(\d\d):(\d\d)[:;](\d+)$/.exec(t.start)
    const frames =
      m &&
      Math.min(
        Math.round(rate.num / rate.den) - 1,
        Math.round((Number(m[4]) * rate.num * t.rate.den) / (rate.den * t.rate.num)),
      )
    return {
      start: m ? timecodeToFrames(Number(m[1]), Number(m[2]), Number(m[3]), frames!, { rate, dropFrame: false }) : null,
      length,
    }
  }
  // a broadcast wave file counts samples since midnight (EBU Tech 3285)
  const a = info.audio[0]
  if (info.bext && info.bext.timeReference > 0 && a)
    return { start: Math.round((info.bext.timeReference * rate.num) / (a.sampleRate * rate.den)), length }
  return { start: null, length }
}

/** How far a file covers what a clip takes, and from where its frames count. */
function cover(c: Clip, range: { in: Frames; out: Frames }, info: MediaInfo): { offset: Frames; missing: Frames } {
  const { start, length } = placeIn(info, c.source!.rate)
  const lacking = (offset: Frames) => Math.max(0, offset - range.in) + Math.max(0, range.out - offset - length)
  const options =
    start === null
      ? c.available && c.available.in > 0
        ? [c.available.in, 0]
        : [0]
      : [start, ...(start === 0 ? [] : [0])]
  const best = options
    .map((offset) => ({ offset, missing: lacking(offset) }))
    .sort((a, b) => a.missing - b.missing || options.indexOf(a.offset) - options.indexOf(b.offset))[0]!
  return best
}

/** One place where a source is used: an event's own clip, or the outgoing side of its transition. */
interface Use {
  readonly event: number
  readonly clip: Clip
  readonly range: { in: Frames; out: Frames }
  readonly outgoing: boolean
  readonly kind: 'video' | 'audio'
}

/** A file that may be a source; rank −1 was chosen by a person, else how well its name answers. */
interface Usable {
  readonly file: MediaFile
  readonly rank: number
  readonly info: MediaInfo
}

type Probe = (file: MediaFile) => Promise<MediaInfo | null>

/**
 * Matches the clips of a timeline to media files: by the file it names, its reel, then its name; where several files
 * answer, by timecode. Files that only the timecode speaks for are candidates, not links. `probe` tells what a file is,
 * or null.
 */
export async function linkTimeline(
  t: Timeline,
  files: readonly MediaFile[],
  probe: Probe,
  choices: LinkChoices,
  fileName: string,
): Promise<Linking> {
  const links = t.events.map(() => ({ clip: null as Link | null, outgoing: null as Link | null }))
  const infos = new Map<string, MediaInfo | null>()
  const look: Probe = async (file) => {
    const key = `${file.root}\0${file.path}`
    if (!infos.has(key)) infos.set(key, await probe(file))
    return infos.get(key)!
  }
  const preferred = (f: MediaFile) => (choices.folders.some((d) => inside(f, d)) ? 0 : 1)
  const sources: Source[] = []
  for (const [key, uses] of usesOf(t)) {
    const first = uses[0]!.clip
    const events = [...new Set(uses.map((u) => u.event))]
    const about = { key, name: first.name, reel: first.reel, file: first.file, events, lookedFor: wordsFor(first) }
    const where = `${fileName}, ${formatTimecode(t.start + t.events[events[0]!]!.record.in, t)}`
    const usable = await usableFor(uses, files, choices.files[key], preferred, look)
    if (usable.length === 0) {
      const candidates = await byTimecode(first, uses[0]!.range, uses[0]!.kind, files, look)
      sources.push({ ...about, state: 'missing', linked: null, candidates, problem: missing(about, candidates, where) })
      continue
    }
    const choice = choose(uses, usable, preferred)
    uses.forEach((u, i) => {
      links[u.event] = { ...links[u.event]!, [u.outgoing ? 'outgoing' : 'clip']: choice.links[i]! }
    })
    sources.push({
      ...about,
      ...stateOf(t, uses, choice, about.lookedFor, where),
      linked: choice.used.file,
      candidates: usable.map((m) => m.file),
    })
  }
  return { links, sources: await compareAlike(t, sources, look, fileName) }
}

/** Where each source of a timeline is used, by its key. */
function usesOf(t: Timeline): Map<string, Use[]> {
  const uses = new Map<string, Use[]>()
  t.events.forEach((e, event) => {
    const add = (clip: Clip, length: Frames, outgoing: boolean) => {
      if (!clip.source) return
      const key = sourceKey(clip)
      const list = uses.get(key) ?? uses.set(key, []).get(key)!
      list.push({ event, clip, range: taken(e, clip, length), outgoing, kind: e.kind })
    }
    add(e, e.record.out - e.record.in, false)
    if (e.transition?.outgoing) add(e.transition.outgoing, e.transition.frames, true)
  })
  return uses
}

/** What a clip is looked for by, in words. */
const wordsFor = (c: Clip) =>
  [
    c.file && `the file “${baseOf(c.file)}”`,
    c.reel && !/^(AX|AUX)$/i.test(c.reel) && `reel “${c.reel}”`,
    c.name && `the name “${c.name}”`,
  ]
    .filter(Boolean)
    .join(', ')

/** The files that answer to a source's names and hold what it is used for, best first. */
async function usableFor(
  uses: readonly Use[],
  files: readonly MediaFile[],
  chosen: MediaFile | undefined,
  preferred: (f: MediaFile) => number,
  look: Probe,
): Promise<Usable[]> {
  const first = uses[0]!.clip
  const ranked = files
    .map((file) => ({ file, rank: nameRank(first, file.path) }))
    .filter((r): r is { file: MediaFile; rank: number } => r.rank !== null)
  ranked.sort(
    (a, b) => preferred(a.file) - preferred(b.file) || a.rank - b.rank || a.file.path.localeCompare(b.file.path),
  )
  if (chosen) ranked.unshift({ file: chosen, rank: -1 })
  const needsSound = uses.every((u) => u.kind === 'audio')
  const needsPictures = uses.some((u) => u.kind === 'video')
  const usable: Usable[] = []
  for (const r of ranked.slice(0, 200)) {
    const info = await look(r.file)
    if (info && (!needsSound || info.audio.length > 0) && (!needsPictures || info.video.length > 0))
      usable.push({ ...r, info })
  }
  return usable
}

interface Choice {
  /** Beside each use. */
  readonly links: readonly Link[]
  /** The file of the first use. */
  readonly used: Usable
  /** The most frames that a use lacks. */
  readonly short: Frames
  /** Whether another file would have done as well. */
  readonly ambiguous: boolean
}

/** The best file for each use of a source: chosen by a person, else by what it covers, its folder, its name. */
function choose(uses: readonly Use[], usable: readonly Usable[], preferred: (f: MediaFile) => number): Choice {
  let short = 0
  let ambiguous = false
  const bests = uses.map((u) => {
    const scored = usable
      .map((m) => ({ ...m, ...cover(u.clip, u.range, m.info) }))
      .sort(
        (a, b) =>
          Number(a.rank >= 0) - Number(b.rank >= 0) ||
          // the very file that is named, even where it is short: another of its stem is another file
          Number(a.rank > 1) - Number(b.rank > 1) ||
          a.missing - b.missing ||
          preferred(a.file) - preferred(b.file) ||
          a.rank - b.rank,
      )
    const best = scored[0]!
    // names of the same worth, both long enough: a person should say which
    ambiguous ||=
      best.rank >= 0 &&
      scored.some(
        (m) =>
          m !== best &&
          m.rank === best.rank &&
          m.missing === 0 &&
          preferred(m.file) === preferred(best.file) &&
          !same(m.file, best.file),
      )
    short = Math.max(short, best.missing)
    return best
  })
  return { links: bests.map((b) => ({ file: b.file, offset: b.offset })), used: bests[0]!, short, ambiguous }
}

function missing(
  about: Pick<Source, 'events' | 'lookedFor'>,
  candidates: readonly MediaFile[],
  where: string,
): Problem {
  return {
    code: 'link.missing',
    message:
      `No media was found for ${plural(about.events.length, 'event')}; looked for ` +
      `${about.lookedFor || 'a file without a name'}.`,
    where,
    fix: candidates.length
      ? 'Files whose timecode fits are offered; choose one, or name the folder where the media is.'
      : 'Put the media below a storage root, or name the folder where it is.',
  }
}

/** The trouble of a source that has a file: another rate, too short, or one of several. */
function stateOf(
  t: Timeline,
  uses: readonly Use[],
  { used, short, ambiguous }: Choice,
  lookedFor: string,
  where: string,
): Pick<Source, 'state' | 'problem'> {
  const v = used.info.video[0]
  const rate = uses[0]!.clip.source!.rate
  const name = baseOf(used.file.path)
  const pictures = uses.some((u) => u.kind === 'video')
  if (pictures && v && v.rateStated !== false && (!sameRate(v.rate, rate) || !sameRate(v.rate, t.rate)))
    return {
      state: 'rate',
      problem: {
        code: 'link.rate',
        message:
          `“${name}” runs at ${rateLabel(v.rate)} frames a second, the timeline at ` +
          `${rateLabel(t.rate)}; each frame shows the one that is due at its time.`,
        where,
        fix: 'Link a file at the timeline’s rate, or accept it with a waiver.',
      },
    }
  if (short > 0)
    return {
      state: 'short',
      problem: {
        code: 'link.short',
        message: `“${name}” lacks up to ${plural(short, 'frame')} of what the timeline takes from it.`,
        where,
        fix: 'It may be another take or a shorter copy: choose another file.',
      },
    }
  if (ambiguous)
    return {
      state: 'ambiguous',
      problem: {
        code: 'link.ambiguous',
        message: `Several files answer to ${lookedFor}; “${used.file.path}” is taken.`,
        where,
        fix: 'Choose the right one.',
      },
    }
  return { state: 'linked', problem: null }
}

/** Files whose own timecode holds what a clip takes, at its rate. */
async function byTimecode(
  clip: Clip,
  range: { in: Frames; out: Frames },
  kind: 'video' | 'audio',
  files: readonly MediaFile[],
  look: Probe,
): Promise<MediaFile[]> {
  const out: MediaFile[] = []
  for (const file of files.slice(0, 2000)) {
    const info = await look(file)
    if (!info?.timecode || !sameRate(info.timecode.rate, clip.source!.rate) || info[kind].length === 0) continue
    const { start, length } = placeIn(info, clip.source!.rate)
    if (start !== null && range.in >= start && range.out <= start + length) out.push(file)
    if (out.length >= 8) break
  }
  return out
}

/** The raster and sample rate most of the timeline is in; sources in another are marked. */
async function compareAlike(t: Timeline, sources: readonly Source[], look: Probe, fileName: string): Promise<Source[]> {
  const infos = await Promise.all(sources.map((s) => (s.linked ? look(s.linked) : null)))
  const weight = (s: Source, kind: 'video' | 'audio') =>
    s.events.reduce(
      (n, i) => n + (t.events[i]!.kind === kind ? t.events[i]!.record.out - t.events[i]!.record.in : 0),
      0,
    )
  const raster = most(
    infos.map((x, i) =>
      x?.video[0] ? [`${x.video[0].width}×${x.video[0].height}`, weight(sources[i]!, 'video')] : null,
    ),
  )
  const rate = most(
    infos.map((x, i) => (x?.audio[0] ? [String(x.audio[0].sampleRate), weight(sources[i]!, 'audio')] : null)),
  )
  return sources.map((s, i) => {
    if (s.state !== 'linked' && s.state !== 'ambiguous') return s
    const at = `${fileName}, ${formatTimecode(t.start + t.events[s.events[0]!]!.record.in, t)}`
    const v = infos[i]?.video[0]
    const a = infos[i]?.audio[0]
    if (v && weight(s, 'video') > 0 && `${v.width}×${v.height}` !== raster)
      return {
        ...s,
        state: 'raster',
        problem: {
          code: 'link.raster',
          message:
            `“${baseOf(s.linked!.path)}” is ${v.width}×${v.height}, the timeline ${raster}; it is ` +
            'fitted with bars where needed.',
          where: at,
          fix: 'Link a file in the timeline’s raster, or accept it with a waiver.',
        },
      }
    if (a && weight(s, 'audio') > 0 && String(a.sampleRate) !== rate)
      return {
        ...s,
        state: 'sound-rate',
        problem: {
          code: 'link.sound-rate',
          message:
            `The sound of “${baseOf(s.linked!.path)}” runs at ${a.sampleRate} Hz, the timeline at ` +
            `${rate} Hz; it is left silent.`,
          where: at,
          fix: 'Convert the sound, or link another file.',
        },
      }
    return s
  })
}

/** The word that carries the most frames. */
function most(list: readonly ([string, number] | null)[]): string {
  const sums = new Map<string, number>()
  for (const x of list) if (x) sums.set(x[0], (sums.get(x[0]) ?? 0) + x[1])
  return [...sums].sort((a, b) => b[1] - a[1])[0]?.[0] ?? ''
}

/** The media frame a source frame is, by whole frames or, where the media runs at another rate, by time. */
export function mediaFrame(frame: Frames, link: Pick<Link, 'offset'>, source: Rate, media: Rate): Frames {
  const n = frame - link.offset
  return sameRate(source, media) ? n : mulDivFloor(n, media.num * source.den, media.den * source.num)
}
