import { grouped } from '../../group'
import type { MediaInfo } from '../../media/media'
import type { FrameRange } from '../../time/range'
import { sameRate, type Frames } from '../../time/rate'
import { formatTimecode } from '../../time/timecode'
import type { Clip, Timeline } from '../model'
import { nameRank, sourceKey, wordsFor } from './names'
import { cover, placeIn, soundless, taken } from './place'
import {
  fileKey,
  troubled,
  type Link,
  type LinkChoices,
  type Linking,
  type MediaFile,
  type Placed,
  type Probe,
  type Source,
  type Usable,
  type Use,
} from './source'
import { missing, troublesOf, usualOf } from './trouble'

const same = (a: MediaFile, b: MediaFile) => a.root === b.root && a.path === b.path
const inside = (file: MediaFile, folder: MediaFile) =>
  file.root === folder.root &&
  (folder.path === '' || folder.path === '.' || file.path.startsWith(`${folder.path.replace(/\/+$/, '')}/`))

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
    if (!infos.has(fileKey(file))) infos.set(fileKey(file), await probe(file))
    return infos.get(fileKey(file))!
  }
  const preferred = (f: MediaFile) => (choices.folders.some((d) => inside(f, d)) ? 0 : 1)
  const found: (() => Source)[] = []
  for (const [key, uses] of usesOf(t)) {
    const first = uses[0]!.clip
    const events = [...new Set(uses.map((u) => u.event))]
    const about = { key, name: first.name, reel: first.reel, file: first.file, events, lookedFor: wordsFor(first) }
    const where = (event: number) => `${fileName}, ${formatTimecode(t.start + t.events[event]!.record.in, t)}`
    const usable = await usableFor(uses, files, choices.files[key], preferred, look)
    if (usable.length === 0) {
      const candidates = await byTimecode(first, uses[0]!.range, uses[0]!.kind, files, look)
      const problem = missing(about, candidates, where(events[0]!))
      found.push(() => ({ ...about, state: 'missing', linked: null, candidates, problem }))
      continue
    }
    const { placed, ambiguous } = choose(uses, usable, preferred)
    for (const u of placed) links[u.event] = { ...links[u.event]!, [u.outgoing ? 'outgoing' : 'clip']: u.link }
    const answering = ambiguous ? about.lookedFor : null
    const linked = { ...about, linked: placed[0]!.link.file, candidates: usable.map((m) => m.file) }
    found.push(() => troubled(linked, troublesOf(t, placed, usual, answering, where)))
  }
  const usual = usualOf(t, links, ({ file }) => infos.get(fileKey(file)) ?? null)
  return { links, sources: found.map((make) => make()) }
}

/** The events that take from each source, by its key, with the file that each takes from, where there is one. */
export function linksBySource<L extends object>(
  t: Timeline,
  links: readonly { readonly clip: L | null; readonly outgoing: L | null }[],
): Map<string, (L & { readonly event: number; readonly key: string })[]> {
  const of = (clip: Clip | null | undefined, link: L | null, event: number) =>
    clip?.source && link ? [{ ...link, event, key: sourceKey(clip) }] : []
  const all = t.events.flatMap((e, i) => [
    ...of(e, links[i]!.clip, i),
    ...of(e.transition?.outgoing, links[i]!.outgoing, i),
  ])
  return grouped(all, (u) => u.key)
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

/**
 * The best file for each use of a source: chosen by a person, else by what it covers, its folder, its name; and whether
 * another would have done as well.
 */
function choose(
  uses: readonly Use[],
  usable: readonly Usable[],
  preferred: (f: MediaFile) => number,
): { placed: Placed[]; ambiguous: boolean } {
  let ambiguous = false
  const placed = uses.map((u): Placed => {
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
    const { file, offset, info, missing, twice } = best
    const silent = u.kind === 'audio' ? soundless(u.clip, u.range, best, info) : 0
    return { ...u, link: { file, offset }, info, lacking: Math.max(missing, silent), twice }
  })
  return { placed, ambiguous }
}

/** Files whose own timecode holds what a clip takes, at its rate. */
async function byTimecode(
  clip: Clip,
  range: FrameRange,
  kind: 'video' | 'audio',
  files: readonly MediaFile[],
  look: Probe,
): Promise<MediaFile[]> {
  const out: MediaFile[] = []
  for (const file of files.slice(0, 2000)) {
    const info = await look(file)
    if (!info?.timecode || !sameRate(info.timecode.rate, clip.source!.rate) || info[kind].length === 0) continue
    const { counted } = placeIn(info, clip.source!)
    if (counted.some((s) => range.in >= s.count && range.out <= s.count + s.frames)) out.push(file)
    if (out.length >= 8) break
  }
  return out
}
