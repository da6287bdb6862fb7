import type { ByteSource } from '../../bytes'
import { fail, type Problem } from '../../problem'
import { framesToSeconds, type Seconds } from '../../time/rate'
import { missingSound } from '../packets'
import { countedFrom } from '../timing'
import {
  variableRate,
  type AudioTrack,
  type DataInfo,
  type Media,
  type MediaChapter,
  type VideoTrack,
} from '../../media/media'
import { readBlock, trackOf, type Track } from './blocks'
import { elements, field, id, none, numberIn, unsigned, Window, words, type Element } from './ebml'
import { audioTrack, videoTrack } from './tracks'

const masters = new Set<number>([id.segment, id.cluster])
const mostBlocks = 40_000_000
const mostChapters = 10_000

/** Opens a Matroska or WebM file, reading the head of every block once (RFC 9559). */
export async function openMatroska(source: ByteSource): Promise<Media> {
  const walk = new Walk(source)
  await walk.all()
  const { tracks, problems, scale, chapters } = walk
  if (tracks.size === 0)
    fail(
      'matroska.no-tracks',
      'The file ends before it says what it holds.',
      source.name,
      'The recording or the copy was not finished. Copy it again.',
    )
  const video: VideoTrack[] = []
  const sound: { track: AudioTrack; starts: Seconds }[] = []
  let pictures: Seconds | null = null
  // pictures that players leave out come behind those they show
  const hidden = (t: Track) => t.kind === 1 && t.off
  const all = [...tracks.values()]
  for (const t of [...all.filter((x) => !hidden(x)), ...all.filter(hidden)]) {
    if (t.offsets.length === 0) continue
    if (t.kind === 1 && t.video) {
      const unit = t.private ? null : await source.read(t.offsets[0]!, Math.min(t.sizes[0]!, 1 << 16))
      video.push(videoTrack(t, scale, unit))
      pictures ??= t.times.reduce((a, b) => Math.min(a, b)) * (scale / 1e9)
    } else if (t.kind === 2 && t.audio) {
      const { gaps, ...track } = audioTrack(t, scale, source)
      problems.push(...missingSound(gaps, track.info.sampleRate, source.name, !track.pcm))
      sound.push({ track, starts: t.times[0]! * (scale / 1e9) })
    }
  }
  const data = [...tracks.values()].filter((t) => t.kind === subtitles).map((t) => subtitleInfo(t.codec))
  const audio = sound.map(({ track, starts }) => countedFrom(track, starts, pictures ?? starts))
  if (video.length === 0 && audio.length === 0)
    fail('media.nothing', 'There are neither pictures nor sound in this file.', source.name, 'Choose another file.')
  const first = video[0]?.info
  if (first && !first.constantRate) problems.push(variableRate(first.rate, source.name))
  const heard = audio[0]?.info
  return {
    source,
    video,
    audio,
    info: {
      container: walk.doctype === 'webm' ? 'webm' : 'matroska',
      indexAt: walk.hasIndex ? 'end' : 'fragments',
      size: source.size,
      durationFrames: first?.frames ?? null,
      durationSeconds: first ? framesToSeconds(first.frames, first.rate) : heard ? heard.samples / heard.sampleRate : 0,
      timecode: null,
      video: video.map((v) => v.info),
      audio: audio.map((a) => a.info),
      data,
      chapters: chapters.sort((a, b) => a.at - b.at),
      bext: null,
      problems,
    },
  }
}

/** The type of tracks of subtitles (RFC 9559 5.1.4.1.3), and what theirs are by their codec. */
const subtitles = 17
const subtitleLabels: Readonly<Record<string, string>> = {
  'S_TEXT/UTF8': 'subtitles of plain text',
  'S_TEXT/WEBVTT': 'WebVTT subtitles',
  'D_WEBVTT/SUBTITLES': 'WebVTT subtitles',
  'S_TEXT/SSA': 'styled subtitles',
  'S_TEXT/ASS': 'styled subtitles',
  S_DVBSUB: 'DVB subtitles',
  S_VOBSUB: 'subtitles of pictures',
  'S_HDMV/PGS': 'subtitles of pictures',
}
const subtitleInfo = (codec: string): DataInfo => ({
  ...{ kind: 'text', carries: [] },
  label: subtitleLabels[codec] ?? `subtitles (${codec})`,
})

/** One walk through all elements of a file, keeping what it says of itself. */
class Walk {
  readonly problems: Problem[] = []
  readonly tracks = new Map<number, Track>()
  readonly chapters: MediaChapter[] = []
  doctype = 'matroska'
  /** Nanoseconds of a tick. */
  scale = 1_000_000
  hasIndex = false
  private readonly view: Window
  private clusterTime = 0
  private blocks = 0
  /** The walk came to something that is not whole. */
  private cut = false
  /** Something that holds others reaches past the end of the file. */
  private broken = false

  constructor(private readonly source: ByteSource) {
    this.view = new Window(source)
  }

  async all(): Promise<void> {
    const { source } = this
    for (let at = 0; at < source.size && !this.cut;) {
      const e = await this.view.header(at)
      const ends = e ? e.body + e.size : Infinity
      // what is inside these is walked through; the rest is read whole or stepped over
      if (e && masters.has(e.id)) {
        this.broken ||= !e.unknown && ends > source.size
        at = e.body
        continue
      }
      if (!e || ends > source.size) this.cut = true
      else await this.take(e)
      at = ends
    }
    if (this.cut || this.broken)
      this.problems.push({
        code: 'file.truncated',
        damage: true,
        message: `The file breaks off at byte ${source.size}; it is read up to its last whole frame.`,
        where: source.name,
        fix: 'Copy the file again from where it came from.',
      })
  }

  private async take(e: Element): Promise<void> {
    if (e.id === id.group || e.id === id.simple) {
      if (++this.blocks > mostBlocks)
        fail('matroska.blocks', 'The file has more blocks than makes sense.', this.source.name)
      await readBlock(this.view, e, this.clusterTime, this.tracks)
    } else if (e.id === id.ebml) this.doctype = words(field(await this.whole(e), id.docType) ?? none) || this.doctype
    else if (e.id === id.info) this.scale = numberIn(await this.whole(e), id.scale) || 1_000_000
    else if (e.id === id.time) this.clusterTime = unsigned((await this.whole(e)).subarray(0, 8))
    else if (e.id === id.chapters) this.readChapters(await this.whole(e))
    else if (e.id === id.cues) this.hasIndex = true
    else if (e.id === id.tracks)
      for (const t of elements(await this.whole(e))) if (t.id === id.entry) this.addTrack(t.data)
  }

  private async whole(e: Element): Promise<Uint8Array> {
    if (e.size > 16 << 20)
      fail(
        'matroska.size',
        `An element at byte ${e.body} claims ${e.size} bytes, more than makes sense.`,
        this.source.name,
        'The file is damaged; copy it again from where it came from.',
      )
    return this.source.read(e.body, e.size)
  }

  private addTrack(bytes: Uint8Array): void {
    const track = trackOf(bytes)
    if (track) this.tracks.set(track.number, track)
    else
      this.problems.push({
        code: 'matroska.encoding',
        damage: true,
        message: `Track ${numberIn(bytes, id.number)} is compressed or encrypted as a whole and is left out.`,
        where: this.source.name,
        fix: 'Ask for the file without it.',
      })
  }

  private readChapters(bytes: Uint8Array): void {
    for (const edition of elements(bytes)) {
      if (edition.id !== id.edition) continue
      for (const atom of elements(edition.data)) {
        if (atom.id !== id.atom || this.chapters.length >= mostChapters) continue
        const display = field(atom.data, id.display)
        // in microseconds: a day of nanoseconds is more than a double holds exactly with a factor
        this.chapters.push({
          at: Math.round(numberIn(atom.data, id.start) / 1000),
          timescale: 1_000_000,
          name: display ? words(field(display, id.text) ?? none) : '',
        })
      }
    }
  }
}
