import { Reader, readExactly, type ByteSource } from '../../bytes'
import { fail, type Problem } from '../../problem'
import { listed } from '../../text'
import { framesToSeconds, sameRate, type Seconds } from '../../time/rate'
import { variableRate, type AudioTrack, type Media, type StartTimecode, type VideoTrack } from '../../media/media'
import { missingSound } from '../packets'
import { countedFrom } from '../timing'
import { child, innerBoxes, topLevelBoxes, type BoxHeader, type InnerBox } from './boxes'
import { readFragments, type FragmentTable } from './fragments'
import { videoTrack } from './pictures'
import { readSampleTable } from './sampletable'
import { dataInfo, readChapters, readTimecodes } from './sidetracks'
import { audioTrack, type ReadTrack } from './sound'
import { readMovieHeader, readTrak, type MovieHeader, type Trak } from './trak'
import { unfollowed } from './unfollowed'

/** Largest index accepted: a day of 120 Hz pictures and many sound tracks stays well below. */
const maxIndex = 1 << 30
const copyAgain = 'Copy the file again from where it came from.'

/** Opens an MP4 or MOV file from any writer, reading its index only (ISO/IEC 14496-12). */
export async function openMp4(source: ByteSource): Promise<Media> {
  const boxes = await topLevelBoxes(source)
  const problems: Problem[] = []
  const moov = indexOf(source, boxes, problems)
  const parts = await readIndex(source, moov)
  const movie = movieHeaderOf(parts, source.name)
  const traks = parts
    .filter((b) => b.type === 'trak')
    .map(readTrak)
    .filter((t) => t !== null)
  const mvex = child(parts, 'mvex')
  const timescaleOf = (id: number) => traks.find((t) => t.id === id)?.timescale ?? 1
  const fragments = mvex ? await readFragments(source, boxes, mvex, timescaleOf) : null
  const named = new Set(traks.flatMap((t) => t.chapterTracks))
  // a track of pictures can name chapters as well, by a still for each
  const own = traks.filter((t) => t.kind !== 'vide' || !named.has(t.id))
  const { video, audio, timecode } = await readTracks(source, own, fragments, movie, problems)
  if (video.length === 0 && audio.length === 0)
    fail('media.nothing', 'There are neither pictures nor sound in this file.', source.name, 'Choose another file.')
  const chapterTrack = traks.find((t) => named.has(t.id) && (t.kind === 'text' || t.kind === 'sbtl'))
  const first = video[0]?.info
  if (first && timecode && !sameRate(first.rate, timecode.rate))
    problems.push({
      code: 'media.timecode-rate',
      message: 'The start timecode counts at another rate than the pictures.',
      where: source.name,
      fix: 'Set the start timecode of the timeline by hand.',
    })
  if (first && !first.constantRate) problems.push(variableRate(first.rate, source.name))
  const data = traks.flatMap((t) => (named.has(t.id) ? [] : (dataInfo(t) ?? [])))
  const isMov =
    boxes[0]?.type !== 'ftyp' || String.fromCharCode(...(await source.read(boxes[0].offset + 8, 4))) === 'qt  '
  const mdat = boxes.find((b) => b.type === 'mdat')
  const sound = audio[0]?.info
  return {
    source,
    video,
    audio,
    info: {
      container: isMov ? 'mov' : 'mp4',
      indexAt: mvex ? 'fragments' : mdat && mdat.offset < moov.offset ? 'end' : 'front',
      size: source.size,
      durationFrames: first?.frames ?? null,
      durationSeconds: first ? framesToSeconds(first.frames, first.rate) : sound ? sound.samples / sound.sampleRate : 0,
      timecode,
      video: video.map((v) => v.info),
      audio: audio.map((a) => a.info),
      data,
      chapters: chapterTrack ? await readChapters(chapterTrack, source) : [],
      bext: null,
      problems,
    },
  }
}

/** The box of the index; says when the file breaks off elsewhere. */
function indexOf(source: ByteSource, boxes: readonly BoxHeader[], problems: Problem[]): BoxHeader {
  const moov = boxes.find((b) => b.type === 'moov')
  const broken = boxes.find((b) => b.truncated)
  if (!moov || moov.truncated) {
    const claim = broken
      ? `The last box (“${broken.type}” at byte ${broken.offset}) is cut off at the end of the file, `
      : 'The file ends '
    fail(
      'mp4.no-index',
      `${claim}before the index that tells where pictures and sound are.`,
      source.name,
      'The recording or the copy was not finished. Copy it again, or ask for it again.',
    )
  }
  if (moov.size > maxIndex)
    fail(
      'mp4.table-size',
      `The index claims ${moov.size} bytes, more than makes sense.`,
      source.name,
      'The file is damaged; copy it again from where it came from.',
    )
  if (broken)
    problems.push({
      code: 'file.truncated',
      damage: true,
      message:
        `The file ends in the middle of its “${broken.type}” at byte ${source.size}; ` + 'what lies beyond is missing.',
      where: source.name,
      fix: copyAgain,
    })
  return moov
}

async function readIndex(source: ByteSource, moov: BoxHeader): Promise<InnerBox[]> {
  const at = moov.offset + moov.header
  const parts = innerBoxes(new Reader(await readExactly(source, at, moov.size - moov.header), source.name, at))
  if (child(parts, 'cmov'))
    fail(
      'mp4.compressed-index',
      'The index of this file is compressed.',
      source.name,
      'Ask for a copy with a plain index.',
    )
  return parts
}

function movieHeaderOf(parts: readonly InnerBox[], name: string): MovieHeader {
  const mvhd = child(parts, 'mvhd')?.data
  if (!mvhd)
    fail(
      'mp4.missing-box',
      'The index lacks its movie header.',
      name,
      'The file is damaged; copy it again from where it came from.',
    )
  return readMovieHeader(mvhd)
}

async function readTracks(
  source: ByteSource,
  traks: readonly Trak[],
  fragments: ReadonlyMap<number, FragmentTable> | null,
  movie: MovieHeader,
  problems: Problem[],
): Promise<{ video: VideoTrack[]; audio: AudioTrack[]; timecode: StartTimecode | null }> {
  const video: VideoTrack[] = []
  const heard: ReadTrack[] = []
  let picturesStart: Seconds | null = null
  const where = source.name
  // pictures that players leave out come behind those they show
  const hidden = (t: Trak) => t.kind === 'vide' && t.off
  for (const trak of [...traks.filter((t) => !hidden(t)), ...traks.filter(hidden)]) {
    if (!trak.entry) continue
    const fragment = fragments?.get(trak.id)
    if (trak.kind === 'vide' || trak.kind === 'soun') problems.push(...unfollowed(trak, fragment, where))
    if (trak.elsewhere) continue
    if (trak.kind === 'vide') {
      const table = fragment ? { ...fragment, cut: false } : readSampleTable(trak.stbl, where, source.size)
      if (table.cut)
        problems.push({
          code: 'file.truncated',
          damage: true,
          message: `Pictures after frame ${table.count} are missing: the file is shorter than its index says.`,
          where,
          fix: copyAgain,
        })
      const { starts, ...track } = await videoTrack(trak, table, movie, source)
      if (track.info.frames > 0) {
        video.push(track)
        picturesStart ??= starts
      } else
        problems.push({ code: 'mp4.empty-track', damage: true, message: 'A picture track holds no pictures.', where })
    } else if (trak.kind === 'soun') {
      const track = await audioTrack(trak, fragment, movie.scale, source)
      if (track.cut)
        problems.push({
          code: 'file.truncated',
          damage: true,
          message: 'The end of the sound is missing: the file is shorter than its index says.',
          where,
          fix: copyAgain,
        })
      problems.push(...missingSound(track.gaps, track.info.sampleRate, where, !track.pcm))
      heard.push(track)
    }
  }
  const audio = heard.map(({ cut: _cut, gaps: _gaps, starts, ...track }) =>
    countedFrom(track, starts, picturesStart ?? starts),
  )
  const timecodes = await readTimecodes(traks, movie.scale, source)
  const [timecode = null, ...others] = timecodes
  if (others.some((t) => t.start !== timecode!.start))
    problems.push({
      code: 'mp4.timecodes',
      message: `The file has ${timecodes.length} timecodes, which begin at ${listed(timecodes.map((t) => t.start))}.`,
      where,
      fix: 'The first is taken, that of the pictures where they name one. Set the start by hand if another is meant.',
    })
  return { video, audio, timecode }
}
