import { Reader, type ByteSource } from '../../bytes'
import type { DataInfo, MediaChapter, StartTimecode, TimecodeJump } from '../../media/media'
import { jumpsIn } from '../../media/starttimecode'
import { ofDay } from '../../time/midnight'
import { makeRate, nearestRate, type Rate, type Seconds } from '../../time/rate'
import { mulDivRound } from '../../time/samples'
import { canDropFrame, formatTimecode } from '../../time/timecode'
import { readChunks, readSampleTable, readSizeHead } from './sampletable'
import { decodeText } from '../../text'
import { emptyOf, type Trak } from './trak'

/** The timecodes of a file: that of its pictures first, where they say one, then the others as they stand. */
export async function readTimecodes(
  traks: readonly Trak[],
  movieScale: number,
  source: ByteSource,
): Promise<StartTimecode[]> {
  const pictures = traks.find((t) => t.kind === 'vide' && !t.off) ?? traks.find((t) => t.kind === 'vide')
  const named = (t: Trak) => pictures?.timecodeTracks.includes(t.id) ?? false
  const clocks = traks
    .filter((t) => t.kind === 'tmcd' && !t.elsewhere)
    .sort((a, b) => Number(named(b)) - Number(named(a)))
  const from = pictures ? emptyOf(pictures, movieScale) : 0
  const read = await Promise.all(clocks.map((t) => readTmcd(t, source, { movieScale, from })))
  return read.filter((t) => t !== null)
}

/** When what a timecode is of is first presented, and in which ticks a movie counts. */
interface Presented {
  readonly movieScale: number
  readonly from: Seconds
}

/** The timecode that a `tmcd` track counts (QuickTime File Format, timecode sample description). */
async function readTmcd(trak: Trak, source: ByteSource, presented: Presented): Promise<StartTimecode | null> {
  if (trak.entry?.type !== 'tmcd') return null
  const r = new Reader(trak.entry.data.bytes, source.name)
  r.skip(12)
  const flags = r.u32()
  const timescale = r.u32()
  const frameDuration = r.u32()
  const reel = reelIn(r)
  if (timescale === 0 || frameDuration === 0) return null
  const chunks = readChunks(trak.stbl, source.name, 1)
  if (chunks.offsets.length === 0) return null
  const bytes = await source.read(chunks.offsets[0]!, 4)
  if (bytes.length < 4) return null
  const exact = makeRate(timescale, frameDuration)
  const rate = nearestRate(timescale / frameDuration) ?? exact
  const dropFrame = (flags & 1) === 1 && canDropFrame(rate)
  // a table that is not right is no reason to go without the start
  const all = await countsOf(trak, source, rate).catch(() => null)
  const first = { at: 0, count: new Reader(bytes, source.name).u32() }
  const [{ count }, ...rest] = shownOf(all ?? [first], trak, rate, presented)
  const base = { rate, dropFrame }
  const jumps = all && jumpsIn([{ at: 0, count }, ...rest], base)
  const start = { start: formatTimecode(count, base), startFrames: ofDay(count, base) }
  return { ...start, ...base, ...(reel ? { reel } : {}), ...(jumps ? { jumps } : {}) }
}

/** The name of the recording that a timecode is of (QuickTime File Format, source reference); empty where none is. */
function reelIn(r: Reader): string {
  if (r.left < 2) return ''
  r.skip(2)
  while (r.left >= 8) {
    const size = r.u32() - 8
    const type = r.u32()
    if (size < 0 || size > r.left) return ''
    const box = r.sub(size)
    if (type !== nameType || size < 4) continue
    const length = box.u16()
    box.skip(2)
    return decodeText(box.part(Math.min(length, box.left)))
      .text.replaceAll('\0', '')
      .trim()
  }
  return ''
}

/** `name` */
const nameType = 0x6e616d65

/** Samples of a timecode track that are looked at; one is enough for a whole file. */
const mostSamples = 100_000

/** What samples of a timecode track count, by the frame of the track; null where that cannot be told. */
async function countsOf({ stbl, timescale }: Trak, source: ByteSource, rate: Rate): Promise<TimecodeJump[] | null> {
  const { count } = readSizeHead(stbl, source.name)
  if (count > mostSamples) return null
  const table = readSampleTable(stbl, source.name, source.size)
  const out: TimecodeJump[] = []
  for (let i = 0; i < table.count; i++) {
    const bytes = await source.read(table.offsets[i]!, 4)
    if (bytes.length < 4) return null
    const at = mulDivRound(table.dts[i]!, rate.num, rate.den * timescale)
    out.push({ at, count: new Reader(bytes, source.name).u32() })
  }
  return out.length ? out : null
}

/** What is counted for frames of the pictures, the first of them first: what the track's edit list presents. */
function shownOf(
  counts: readonly TimecodeJump[],
  trak: Trak,
  rate: Rate,
  { movieScale, from }: Presented,
): [TimecodeJump, ...TimecodeJump[]] {
  const real = trak.edits.filter((e) => e.mediaTime >= 0)
  const out: TimecodeJump[] = []
  let begins = Math.round(((emptyOf(trak, movieScale) - from) * rate.num) / rate.den)
  for (const e of real.length ? real : [{ mediaTime: 0, duration: 0 }]) {
    const first = mulDivRound(e.mediaTime, rate.num, rate.den * trak.timescale)
    const frames = e.duration === 0 ? Infinity : mulDivRound(e.duration, rate.num, rate.den * movieScale)
    const before = counts.findLast((c) => c.at <= first) ?? counts[0]!
    out.push({ at: begins, count: before.count + first - before.at })
    const within = counts.filter((c) => c.at > first && c.at - first < frames)
    out.push(...within.map((c) => ({ at: begins + c.at - first, count: c.count })))
    begins += frames
  }
  const lead = out.findLast((c) => c.at <= 0) ?? out[0]!
  return [{ at: 0, count: Math.max(0, lead.count - lead.at) }, ...out.filter((c) => c.at > 0 && c !== lead)]
}

const mostChapters = 10_000

/** Names and times of a chapter track: each sample is a 16-bit length and text. */
export async function readChapters(trak: Trak, source: ByteSource): Promise<MediaChapter[]> {
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

/** Tracks by their handler that are pictures or sound, or only serve those. */
const served = new Set(['vide', 'soun', 'tmcd', 'hint'])

/** Text tracks by their sample entries (ISO/IEC 14496-30, 3GPP TS 26.245, QuickTime File Format). */
const textLabels: Readonly<Record<string, string>> = {
  tx3g: 'timed text',
  text: 'timed text',
  wvtt: 'WebVTT subtitles',
  stpp: 'TTML subtitles',
  c608: 'CEA-608 captions',
  c708: 'CEA-708 captions',
}

/** What a track is that is neither pictures nor sound; null of others. */
export function dataInfo({ kind, entry }: Trak): DataInfo | null {
  if (!entry || served.has(kind)) return null
  const label = textLabels[entry.type]
  if (label) return { kind: 'text', label, carries: [] }
  return { kind: kind === 'meta' ? 'metadata' : 'other', label: `a track of kind “${entry.type.trim()}”`, carries: [] }
}
