import { Reader, type ByteSource } from '../../bytes'
import type { DataInfo, MediaChapter, StartTimecode } from '../../media/media'
import { makeRate, nearestRate, type Frames, type Rate } from '../../time/rate'
import { mulDivRound } from '../../time/samples'
import { canDropFrame, formatTimecode } from '../../time/timecode'
import { readChunks, readSampleTable } from './sampletable'
import type { Trak } from './trak'

/** The start timecode that a `tmcd` track counts from (QuickTime File Format, timecode sample description). */
export async function readTmcd(trak: Trak, source: ByteSource): Promise<StartTimecode | null> {
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
  const breaks = await breaksOf(trak, source, rate)
  return { start: formatTimecode(startFrames, { rate, dropFrame }), startFrames, rate, dropFrame, breaks }
}

/** Frames at which samples of a timecode track do not follow from each other: one is enough for a whole file. */
async function breaksOf(trak: Trak, source: ByteSource, rate: Rate): Promise<Frames[]> {
  const table = readSampleTable(trak.stbl, source.name, source.size)
  const out: Frames[] = []
  let due: Frames | null = null
  for (let i = 0; i < Math.min(table.count, mostSamples); i++) {
    const bytes = await source.read(table.offsets[i]!, 4)
    const here = bytes.length < 4 ? null : new Reader(bytes, source.name).u32()
    const frameOf = (ticks: number) => mulDivRound(ticks, rate.num, rate.den * trak.timescale)
    const at = frameOf(table.dts[i]!)
    if (due !== null && here !== due) out.push(at)
    due = here === null || i + 1 >= table.count ? null : here + frameOf(table.dts[i + 1]!) - at
  }
  return out
}

/** Samples of a timecode track that are looked at. */
const mostSamples = 100_000

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
