import { Reader, readExactly, type ByteSource } from '../../bytes'
import { fail, type Problem } from '../../problem'
import { lastWhere } from '../../time/order'
import { framesToSeconds, makeRate, nearestRate, sameRate, type Rate } from '../../time/rate'
import { canDropFrame, formatTimecode } from '../../time/timecode'
import { mulDivRound } from '../../time/samples'
import {
  variableRate,
  type AudioTrack,
  type Media,
  type MediaChapter,
  type StartTimecode,
  type VideoTrack,
} from '../../media/media'
import { child, innerBoxes, topLevelBoxes, type InnerBox } from './boxes'
import { readFragments } from './fragments'
import { readAudioEntry, readVideoEntry } from './sampleentry'
import { readChunks, readSampleTable, readSizeHead, sampleAt, type SampleTable } from './sampletable'

/** Largest index accepted: a day of 120 Hz pictures and many sound tracks stays well below. */
const maxIndex = 1 << 30

interface Edit {
  readonly duration: number
  readonly mediaTime: number
}

interface Trak {
  readonly id: number
  readonly kind: string
  readonly timescale: number
  readonly edits: readonly Edit[]
  readonly stbl: readonly InnerBox[]
  readonly entry: InnerBox | undefined
  readonly stsdVersion: number
  /** Tracks whose text names its chapters (QuickTime File Format, chapter lists). */
  readonly chapterTracks: readonly number[]
}

function readEdits(trak: readonly InnerBox[]): Edit[] {
  const edts = child(trak, 'edts')
  const elst = edts ? child(innerBoxes(edts.data), 'elst')?.data : undefined
  if (!elst) return []
  const wide = elst.u8() === 1
  elst.skip(3)
  const count = Math.min(elst.u32(), Math.floor(elst.left / (wide ? 20 : 12)))
  const out: Edit[] = []
  for (let i = 0; i < count; i++) {
    out.push(wide ? { duration: elst.u64(), mediaTime: elst.i64() } : { duration: elst.u32(), mediaTime: elst.i32() })
    elst.skip(4)
  }
  return out
}

function readTrak(box: InnerBox): Trak | null {
  const parts = innerBoxes(box.data)
  const tkhd = child(parts, 'tkhd')?.data
  const mdia = child(parts, 'mdia')
  if (!tkhd || !mdia) return null
  const v1 = tkhd.u8() === 1
  tkhd.skip(3 + (v1 ? 16 : 8))
  const id = tkhd.u32()
  const media = innerBoxes(mdia.data)
  const mdhd = child(media, 'mdhd')?.data
  const hdlr = child(media, 'hdlr')?.data
  const tref = child(parts, 'tref')
  const chap = tref ? child(innerBoxes(tref.data), 'chap')?.data : undefined
  const chapterTracks: number[] = []
  while (chap && chap.left >= 4) chapterTracks.push(chap.u32())
  const minf = child(media, 'minf')
  if (!mdhd || !hdlr || !minf) return null
  const wide = mdhd.u8() === 1
  mdhd.skip(3 + (wide ? 16 : 8))
  const timescale = mdhd.u32()
  if (timescale === 0)
    fail(
      'mp4.timescale',
      `Track ${id} has a timescale of zero.`,
      box.data.name,
      'The file is damaged; copy it again from where it came from.',
    )
  hdlr.skip(8)
  const kind = hdlr.tag()
  const stblBox = child(innerBoxes(minf.data), 'stbl')
  if (!stblBox) return null
  const stbl = innerBoxes(stblBox.data)
  const stsd = child(stbl, 'stsd')?.data
  const stsdVersion = stsd ? stsd.u8() : 0
  stsd?.skip(7)
  return {
    id,
    kind,
    timescale,
    edits: readEdits(parts),
    stbl,
    entry: stsd ? innerBoxes(stsd)[0] : undefined,
    stsdVersion,
    chapterTracks,
  }
}

/** Decode positions in display order, kept to what the edit list presents. */
function displayOrder(t: SampleTable, edits: readonly Edit[], timescale: number, movieScale: number): Uint32Array {
  const order = Array.from({ length: t.count }, (_, i) => i)
  const pts = (i: number) => t.dts[i]! + t.cts[i]!
  order.sort((a, b) => pts(a) - pts(b) || a - b)
  const real = edits.filter((e) => e.mediaTime >= 0)
  if (real.length === 0) return Uint32Array.from(order)
  const shown: number[] = []
  for (const e of real) {
    const length = e.duration === 0 ? Infinity : mulDivRound(e.duration, timescale, movieScale)
    // a frame belongs to the edit when most of it lies inside; movie timescales too coarse for a frame round the ends
    const slack = Math.floor((t.durations[0] ?? 1) / 2)
    for (const i of order) {
      const at = pts(i) - e.mediaTime
      if (at >= -slack && at < length - slack) shown.push(i)
    }
    if (shown.length > t.count * 4) break
  }
  return Uint32Array.from(shown)
}

/** The exact rate of a track from its presentation times; the nearest standard rate when ticks are coarse. */
function rateOf(
  t: SampleTable,
  order: Uint32Array,
  timescale: number,
  hint: Rate | null,
): { rate: Rate; constant: boolean } {
  const n = order.length
  if (n < 2) {
    const d = t.durations[0] || timescale / 25
    return { rate: hint ?? makeRate(timescale, Math.max(1, Math.round(d))), constant: true }
  }
  const pts = (k: number) => t.dts[order[k]!]! + t.cts[order[k]!]!
  const total = pts(n - 1) - pts(0)
  const mean = total / (n - 1)
  let constant = true
  for (let k = 1; k < n && constant; k++) constant = Math.abs(pts(k) - pts(k - 1) - mean) <= 1
  const exact = Number.isInteger(mean) && mean > 0 ? makeRate(timescale, mean) : null
  const standard = mean > 0 ? nearestRate(timescale / mean) : null
  return {
    rate: standard ?? exact ?? hint ?? makeRate(Math.max(1, Math.round((timescale / Math.max(mean, 1)) * 1000)), 1000),
    constant,
  }
}

function videoTrack(trak: Trak, table: SampleTable, movieScale: number): VideoTrack {
  const entry = readVideoEntry(trak.entry!)
  const order = displayOrder(table, trak.edits, trak.timescale, movieScale)
  const { rate, constant } = rateOf(table, order, trak.timescale, entry.timing)
  let intra = true
  for (let i = 0; i < table.count && intra; i++) intra = table.sync[i] === 1
  return {
    info: { ...entry.info, rate, constantRate: constant, frames: order.length, intra },
    timescale: trak.timescale,
    sampleCount: table.count,
    configuration: entry.configuration,
    native: entry.native,
    sample: (i) => sampleAt(table, i),
    sampleOfFrame: (n) => order[n]!,
    syncBefore: (i) => {
      let k = i
      while (k > 0 && table.sync[k] !== 1) k--
      return k
    },
  }
}

function editedSamples(
  trak: Trak,
  total: number,
  movieScale: number,
  sampleRate: number,
): { start: number; samples: number } {
  const edit = trak.edits.find((e) => e.mediaTime >= 0)
  if (!edit) return { start: 0, samples: total }
  const start = Math.min(total, mulDivRound(edit.mediaTime, sampleRate, trak.timescale))
  const left = total - start
  const wanted = edit.duration === 0 ? left : mulDivRound(edit.duration, sampleRate, movieScale)
  // a movie timescale coarser than the sample rate cannot say the end exactly: within one tick the media's own end
  // counts
  const tick = Math.ceil(sampleRate / movieScale)
  return { start, samples: Math.abs(wanted - left) <= tick ? left : Math.min(left, wanted) }
}

function audioTrack(
  trak: Trak,
  fragment: SampleTable | undefined,
  movieScale: number,
  source: ByteSource,
): AudioTrack & { cut: boolean } {
  const entry = readAudioEntry(trak.entry!, trak.stsdVersion)
  const rate = entry.info.sampleRate
  const shared = { configuration: entry.configuration, native: entry.native, pcm: entry.pcm }
  const noPacket = () => fail('internal.error', 'PCM sound has no packets.', source.name)
  if (entry.pcm) {
    const frameBytes = entry.pcm.bytesPerSample * entry.pcm.channels
    const head = fragment ? null : readSizeHead(trak.stbl, source.name)
    let offsets: Float64Array
    let first: Float64Array
    let cut = false
    if (head && head.constant > 0) {
      const chunks = readChunks(trak.stbl, source.name, head.count)
      offsets = chunks.offsets
      first = chunks.first
    } else {
      const t = fragment ?? readSampleTable(trak.stbl, source.name, source.size)
      offsets = t.offsets.subarray(0, t.count)
      first = new Float64Array(t.count + 1)
      for (let i = 0; i < t.count; i++) first[i + 1] = first[i]! + Math.floor(t.sizes[i]! / frameBytes)
    }
    let total = first[offsets.length] ?? 0
    for (
      let c = offsets.length - 1;
      c >= 0 && offsets[c]! + (first[c + 1]! - first[c]!) * frameBytes > source.size;
      c--
    ) {
      total = first[c]! + Math.max(0, Math.floor((source.size - offsets[c]!) / frameBytes))
      cut = true
    }
    const edited = editedSamples(trak, total, movieScale, rate)
    return {
      ...shared,
      cut,
      info: { ...entry.info, samples: edited.samples },
      start: edited.start,
      packetCount: 0,
      packet: noPacket,
      run: (at) => {
        const chunk = Math.max(
          0,
          lastWhere(offsets.length, (i) => first[i]! <= at),
        )
        return {
          offset: (offsets[chunk] ?? 0) + (at - (first[chunk] ?? 0)) * frameBytes,
          samples: Math.min(first[chunk + 1] ?? 0, total) - at,
        }
      },
    }
  }
  const table = fragment ? { ...fragment, cut: false } : readSampleTable(trak.stbl, source.name, source.size)
  const toSamples = (ticks: number) => mulDivRound(ticks, rate, trak.timescale)
  const last = table.count - 1
  const total = last >= 0 ? toSamples(table.dts[last]! + table.durations[last]!) : 0
  const edited = editedSamples(trak, total, movieScale, rate)
  return {
    ...shared,
    cut: table.cut,
    info: { ...entry.info, samples: edited.samples },
    start: edited.start,
    packetCount: table.count,
    packet: (i) => ({
      offset: table.offsets[i]!,
      size: table.sizes[i]!,
      pts: toSamples(table.dts[i]!),
      duration: toSamples(table.dts[i]! + table.durations[i]!) - toSamples(table.dts[i]!),
    }),
    run: () => fail('internal.error', 'Coded sound has no runs.', source.name),
  }
}

async function readTmcd(trak: Trak, source: ByteSource): Promise<StartTimecode | null> {
  if (trak.entry?.type !== 'tmcd') return null
  const r = new Reader(trak.entry.data.bytes, source.name)
  r.skip(12)
  const flags = r.u32()
  const timescale = r.u32()
  const frameDuration = r.u32()
  if (timescale === 0 || frameDuration === 0) return null
  const chunks = readChunks(trak.stbl, source.name, 1)
  if (chunks.offsets.length === 0) return null
  const bytes = await source.read(chunks.offsets[0]!, 4)
  if (bytes.length < 4) return null
  const startFrames = new Reader(bytes, source.name).u32()
  const exact = makeRate(timescale, frameDuration)
  const rate = nearestRate(timescale / frameDuration) ?? exact
  const dropFrame = (flags & 1) === 1 && canDropFrame(rate)
  return { start: formatTimecode(startFrames, { rate, dropFrame }), startFrames, rate, dropFrame }
}

const mostChapters = 10_000

/** Names and times of a chapter track: each sample is a 16-bit length and text. */
async function readChapters(trak: Trak, source: ByteSource): Promise<MediaChapter[]> {
  const table = readSampleTable(trak.stbl, source.name, source.size)
  const out: MediaChapter[] = []
  const skip = trak.edits.find((e) => e.mediaTime > 0)?.mediaTime ?? 0
  for (let i = 0; i < Math.min(table.count, mostChapters); i++) {
    const bytes = await source.read(table.offsets[i]!, Math.min(table.sizes[i]!, 4096))
    const length = bytes.length >= 2 ? Math.min((bytes[0]! << 8) | bytes[1]!, bytes.length - 2) : 0
    const text = bytes.subarray(2, 2 + length)
    const wide = (text[0] === 0xfe && text[1] === 0xff) || (text[0] === 0xff && text[1] === 0xfe)
    const name = new TextDecoder(wide ? (text[0] === 0xfe ? 'utf-16be' : 'utf-16le') : 'utf-8').decode(text)
    // a name of nothing only fills the time before the first chapter
    if (name !== '') out.push({ at: Math.max(0, table.dts[i]! - skip), timescale: trak.timescale, name })
  }
  return out
}

/** Opens an MP4 or MOV file from any writer, reading its index only (ISO/IEC 14496-12). */
export async function openMp4(source: ByteSource): Promise<Media> {
  const boxes = await topLevelBoxes(source)
  const problems: Problem[] = []
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
      message:
        `The file ends in the middle of its “${broken.type}” at byte ${source.size}; ` + 'what lies beyond is missing.',
      where: source.name,
      fix: 'Copy the file again from where it came from.',
    })
  const parts = innerBoxes(
    new Reader(
      await readExactly(source, moov.offset + moov.header, moov.size - moov.header),
      source.name,
      moov.offset + moov.header,
    ),
  )
  if (child(parts, 'cmov'))
    fail(
      'mp4.compressed-index',
      'The index of this file is compressed.',
      source.name,
      'Ask for a copy with a plain index.',
    )
  const mvhd = child(parts, 'mvhd')?.data
  if (!mvhd)
    fail(
      'mp4.missing-box',
      'The index lacks its movie header.',
      source.name,
      'The file is damaged; copy it again from where it came from.',
    )
  const wide = mvhd.u8() === 1
  mvhd.skip(3 + (wide ? 16 : 8))
  const movieScale = mvhd.u32() || 1000
  const traks = parts
    .filter((b) => b.type === 'trak')
    .map(readTrak)
    .filter((t) => t !== null)
  const mvex = child(parts, 'mvex')
  const fragments = mvex ? await readFragments(source, boxes, mvex) : null

  const video: VideoTrack[] = []
  const audio: AudioTrack[] = []
  let timecode: StartTimecode | null = null
  for (const trak of traks) {
    if (!trak.entry) continue
    const fragment = fragments?.get(trak.id)
    if (trak.kind === 'vide') {
      const table = fragment ? { ...fragment, cut: false } : readSampleTable(trak.stbl, source.name, source.size)
      if (table.cut)
        problems.push({
          code: 'file.truncated',
          message: `Pictures after frame ${table.count} are missing: the file is shorter than its index says.`,
          where: source.name,
          fix: 'Copy the file again from where it came from.',
        })
      if (table.count > 0) video.push(videoTrack(trak, table, movieScale))
      else problems.push({ code: 'mp4.empty-track', message: 'A picture track holds no pictures.', where: source.name })
    } else if (trak.kind === 'soun') {
      const track = audioTrack(trak, fragment, movieScale, source)
      if (track.cut)
        problems.push({
          code: 'file.truncated',
          message: 'The end of the sound is missing: the file is shorter than its index says.',
          where: source.name,
          fix: 'Copy the file again from where it came from.',
        })
      audio.push(track)
    } else if (trak.kind === 'tmcd') timecode ??= await readTmcd(trak, source)
    if ((trak.kind === 'vide' || trak.kind === 'soun') && trak.edits.some((e) => e.mediaTime < 0 && e.duration > 0)) {
      problems.push({
        code: 'mp4.late-start',
        message:
          `A ${trak.kind === 'vide' ? 'picture' : 'sound'} track begins later than the file; the empty ` +
          'stretch before it is left out.',
        where: source.name,
      })
    }
  }
  if (video.length === 0 && audio.length === 0)
    fail('media.nothing', 'There are neither pictures nor sound in this file.', source.name, 'Choose another file.')
  const named = new Set(traks.flatMap((t) => t.chapterTracks))
  const chapterTrack = traks.find((t) => named.has(t.id) && (t.kind === 'text' || t.kind === 'sbtl'))
  const chapters = chapterTrack ? await readChapters(chapterTrack, source) : []
  const first = video[0]?.info
  if (first && timecode && !sameRate(first.rate, timecode.rate)) {
    problems.push({
      code: 'media.timecode-rate',
      message: 'The start timecode counts at another rate than the pictures.',
      where: source.name,
      fix: 'Set the start timecode of the timeline by hand.',
    })
  }
  if (first && !first.constantRate) problems.push(variableRate(source.name))
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
      chapters,
      bext: null,
      problems,
    },
  }
}
