import type { ByteSource } from '../../bytes'
import { variableRate } from '../../media/media'
import type { AudioTrack, DataInfo, DataTrack, FileStructure, Media, VideoTrack } from '../../media/media'
import { fail, type Problem } from '../../problem'
import { plural } from '../../text'
import { framesToSeconds, type Rate } from '../../time/rate'
import { kindOfData, linesTrack } from './ancillary'
import { findEssence, keyFault, readIndex, type Essence, type Index } from './elements'
import { definitions } from './labels'
import { readMetadata, type Metadata } from './metadata'
import { KlvReader, partitionsOf, randomIndex, type Partition } from './partitions'
import { pictureTrack } from './picturetrack'
import { programmeOf, type DataOf, type Track } from './programme'
import { soundTrack, wordsFault } from './soundtrack'
import { frameTimecodes } from './timecodes'

const copyAgain = 'Copy the file again from where it came from.'

/** Opens an MXF file, OP1a or OP-Atom, from any writer (SMPTE ST 377-1, ST 378, ST 390): metadata and index only. */
export async function openMxf(source: ByteSource): Promise<Media> {
  const problems: Problem[] = []
  const partitions = await partitionsOf(source, problems)
  const reader = new KlvReader(source)
  const metadata = await bestMetadata(reader, partitions)
  const closed = (await randomIndex(source, reader)) !== null
  const file = programmeOf(metadata, source.name)
  const stored = [...metadata.values()].find(
    (s) => s.kind === 'essenceData' && s.label('linkedPackage') === file.source.label('packageId'),
  )
  const bodySid = stored?.u32('bodySid') || (partitions.find((p) => p.bodySid > 0)?.bodySid ?? 1)
  const index = await readIndex(reader, partitions, bodySid)
  const essence = await findEssence(reader, partitions, bodySid, index)
  problems.push(...essenceProblems(essence, source))
  const rate = file.rate
  const video: VideoTrack[] = []
  const audio: AudioTrack[] = []
  for (const t of file.tracks) {
    const elements = essence.tracks.get(t.number)
    if (!elements || elements.count === 0) {
      problems.push({
        code: 'mxf.empty-track',
        damage: true,
        message: `Track ${t.id} has no essence in this file.`,
        where: source.name,
      })
      continue
    }
    if (t.definition === definitions.picture) {
      const track = await pictureTrack(source, t, elements, index, rate)
      video.push(track)
      if (t.duration !== null && track.info.frames < t.duration - t.start)
        problems.push(short(t.duration - t.start, track.info.frames, source.name))
    } else if (t.definition === definitions.sound) {
      const fault = await wordsFault(source, t, elements)
      if (fault) problems.push(fault)
      else audio.push(soundTrack(t, elements, rate))
    }
  }
  const besides = await dataOf(source, file.data, essence, video[0]?.sampleCount ?? 0)
  if (video.length === 0 && audio.length === 0)
    fail('media.nothing', 'There are neither pictures nor sound in this file.', source.name, 'Choose another file.')
  const first = video[0]?.info
  if (first && !first.constantRate) problems.push(variableRate(first.rate, source.name))
  const seconds = first ? framesToSeconds(first.frames, first.rate) : audio[0]!.info.samples / audio[0]!.info.sampleRate
  return {
    source,
    video,
    audio,
    data: besides.tracks,
    timecodes: frameTimecodes(source, essence.system, video[0], shownFrom(file.tracks)),
    info: {
      container: 'mxf',
      indexAt: index && index.at < beginning(essence) ? 'front' : 'end',
      size: source.size,
      durationFrames: first?.frames ?? null,
      durationSeconds: seconds,
      timecode: file.timecode,
      video: video.map((v) => v.info),
      audio: audio.map((a) => a.info),
      data: besides.infos,
      chapters: file.chapters,
      ...(file.metadata ? { metadata: file.metadata } : {}),
      bext: null,
      structure: { ...headOf(partitions[0]!), ...bodyOf(file.tracks, essence, index, rate), randomIndex: closed },
      problems,
    },
  }
}

/**
 * The tracks that are neither pictures nor sound: those that can be read, which have an element for each of `pictures`,
 * and what is known of all of them.
 */
async function dataOf(source: ByteSource, list: readonly DataOf[], essence: Essence, pictures: number) {
  const tracks: DataTrack[] = []
  const infos: DataInfo[] = []
  for (const t of list) {
    const elements = essence.tracks.get(t.number)
    const kind = kindOfData(t)
    if (elements && elements.count >= pictures && (kind === 'ancillary' || kind === 'vbi')) {
      const track = await linesTrack(source, t, kind, elements)
      tracks.push(track)
      infos.push(track.info)
    } else infos.push({ kind: 'other', label: 'data of a kind that is not read here', carries: [] })
  }
  return { tracks, infos }
}

/** What is not whole of a file's essence. */
function essenceProblems({ broken, lost }: Essence, source: ByteSource): Problem[] {
  const out: Problem[] = []
  if (broken)
    out.push({
      code: 'file.truncated',
      damage: true,
      message: `The file ends at byte ${source.size}, in the middle of its pictures or sound; whole frames are read.`,
      where: source.name,
      fix: copyAgain,
    })
  if (lost !== null)
    out.push({
      code: 'mxf.damaged',
      damage: true,
      message: `At byte ${lost} there is no key where one should be; what follows there is not read.`,
      where: source.name,
      fix: copyAgain,
    })
  return out
}

const short = (asked: number, there: number, where: string): Problem => ({
  code: 'mxf.short',
  damage: true,
  message: `The file says it has ${plural(asked, 'frame')}; there are ${there}.`,
  where,
  fix: copyAgain,
})

/** Frames of its pictures that a file leaves out before the first it shows. */
const shownFrom = (list: readonly Track[]) => list.find((t) => t.definition === definitions.picture)?.start ?? 0

/** Where the first element stands. */
const beginning = ({ tracks }: Essence) => Math.min(...[...tracks.values()].map((e) => (e.count ? e.at(0) : Infinity)))

/** What a header partition says of a file. */
const headOf = ({ pattern, closed, complete }: Partition) => ({
  pattern: patternName(pattern),
  header: `${closed ? 'closed' : 'open'}-${complete ? 'complete' : 'incomplete'}` as const,
})

/** How its essence is wrapped, of how many edit units an index says where they stand, and its partitions. */
function bodyOf(list: readonly Track[], { tracks, firsts }: Essence, index: Index | null, rate: Rate) {
  const clips = list.filter((t) => tracks.get(t.number)?.count === 1 && (t.duration ?? 0) > 1)
  const units = clips.length ? clips.map((t) => t.duration!) : [...tracks.values()].map((t) => t.count)
  const covers = index?.covers ?? 0
  const coverage: FileStructure['index'] = covers >= Math.max(1, ...units) ? 'whole' : covers > 0 ? 'part' : 'none'
  // the essence of a clip is one edit unit, wherever it goes on
  const ends = [...firsts.slice(1), Math.max(0, ...units)]
  const longest = Math.max(0, ...ends.map((end, i) => end - (firsts[i] ?? 0)))
  return {
    wrapping: clips.length ? ('clip' as const) : ('frame' as const),
    index: coverage,
    bodies: { count: firsts.length, longest, rate },
  }
}

/** What an operational pattern is called (ST 377-1 8.3.3): of items and packages, or for a single track. */
function patternName(label: string): string {
  const item = parseInt(label.slice(24, 26), 16)
  if (item === 0x10) return 'OP-Atom'
  return `OP${item}${' abc'[parseInt(label.slice(26, 28), 16)] ?? '?'}`
}

/** The metadata of the header, or of the footer where that of the header is not complete. */
async function bestMetadata(reader: KlvReader, partitions: readonly Partition[]): Promise<Metadata> {
  const ranked = [...partitions].sort((a, b) => Number(b.complete) - Number(a.complete) || b.at - a.at)
  const head = partitions[0]!
  for (const from of head.complete && head.closed ? [head, ...ranked] : [...ranked, head]) {
    const metadata = await readMetadata(reader, from)
    if ([...metadata.values()].some((s) => s.kind === 'source')) return metadata
  }
  return new Map()
}

/** What is wrong with the structure of a whole file, key by key; null when nothing is. */
export async function structureFault(source: ByteSource): Promise<string | null> {
  const reader = new KlvReader(source)
  const problems: Problem[] = []
  const partitions = await partitionsOf(source, problems)
  const bodies = new Set(partitions.map((p) => p.bodySid).filter((sid) => sid > 0))
  const essence = []
  for (const sid of bodies)
    essence.push(await findEssence(reader, partitions, sid, await readIndex(reader, partitions, sid)))
  return problems[0]?.message ?? (await keyFault(reader, essence))
}
