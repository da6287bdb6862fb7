import { Reader, type ByteSource } from '../../bytes'
import type { DataInfo, MediaChapter, StartTimecode, TimecodeJump } from '../../media/media'
import { jumpsIn } from '../../media/starttimecode'
import { makeRate, nearestRate, type Rate } from '../../time/rate'
import { mulDivRound } from '../../time/samples'
import { canDropFrame, formatTimecode } from '../../time/timecode'
import { readChunks, readSampleTable, readSizeHead } from './sampletable'
import { decodeText } from '../../text'
import type { Trak } from './trak'

/** The start timecode that a `tmcd` track counts from (QuickTime File Format, timecode sample description). */
export async function readTmcd(trak: Trak, source: ByteSource): Promise<StartTimecode | null> {
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
  const startFrames = new Reader(bytes, source.name).u32()
  const exact = makeRate(timescale, frameDuration)
  const rate = nearestRate(timescale / frameDuration) ?? exact
  const dropFrame = (flags & 1) === 1 && canDropFrame(rate)
  // a table that is not right is no reason to go without the start
  const jumps = await jumpsOf(trak, source, rate).catch(() => null)
  const start = formatTimecode(startFrames, { rate, dropFrame })
  return { start, startFrames, rate, dropFrame, ...(reel ? { reel } : {}), ...(jumps ? { jumps } : {}) }
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

/** Where samples of a timecode track do not follow from each other; null where that cannot be told. */
async function jumpsOf({ stbl, timescale }: Trak, source: ByteSource, rate: Rate): Promise<TimecodeJump[] | null> {
  const { count } = readSizeHead(stbl, source.name)
  if (count <= 1) return []
  if (count > mostSamples) return null
  const table = readSampleTable(stbl, source.name, source.size)
  const frameOf = (n: number) => mulDivRound(table.dts[n]!, rate.num, rate.den * timescale)
  const counts: TimecodeJump[] = []
  for (let i = 0; i < table.count; i++) {
    const bytes = await source.read(table.offsets[i]!, 4)
    if (bytes.length < 4) return null
    counts.push({ at: frameOf(i), count: new Reader(bytes, source.name).u32() })
  }
  return jumpsIn(counts)
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
