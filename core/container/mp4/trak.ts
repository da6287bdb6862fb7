import { sameBytes, type Reader } from '../../bytes'
import type { Placing } from '../../media/presentation'
import { fail } from '../../problem'
import type { Seconds } from '../../time/rate'
import { child, innerBoxes, type InnerBox } from './boxes'

export interface Edit {
  readonly duration: number
  readonly mediaTime: number
  /** 1 at normal speed, 0 where one picture stands. */
  readonly speed: number
}

/** What the header of a track says of how it is presented (ISO/IEC 14496-12 8.3.2). */
export interface TrackHeader {
  readonly id: number
  /** Players leave it out. */
  readonly off: boolean
  readonly placing: Placing
  /** The size it is shown in; 0 where none is said. */
  readonly width: number
  readonly height: number
}

/** What the header of a movie says of all its tracks (8.2.2). */
export interface MovieHeader {
  /** Ticks a second. */
  readonly scale: number
  readonly placing: Placing
}

export interface Trak extends TrackHeader {
  readonly kind: string
  readonly timescale: number
  readonly edits: readonly Edit[]
  readonly stbl: readonly InnerBox[]
  readonly entry: InnerBox | undefined
  /** Its samples are described in several ways, of which only the first is gone by. */
  readonly describedAnew: boolean
  /** Its samples stand in another file. */
  readonly elsewhere: boolean
  readonly stsdVersion: number
  /** Tracks whose text names its chapters (QuickTime File Format, chapter lists). */
  readonly chapterTracks: readonly number[]
  /** Tracks whose timecode is its own (QuickTime File Format, timecode media). */
  readonly timecodeTracks: readonly number[]
}

/** How long a track's edit list leaves empty what it begins with. */
export function emptyOf({ edits }: Pick<Trak, 'edits'>, movieScale: number): Seconds {
  const shown = edits.findIndex((e) => e.mediaTime >= 0)
  return edits.slice(0, Math.max(0, shown)).reduce((n, e) => n + e.duration, 0) / movieScale
}

/**
 * When a track is first presented, whose first sample shown has a time of its own: after what its edit list leaves
 * empty.
 */
export function startOf(t: Pick<Trak, 'edits' | 'timescale'>, movieScale: number, firstTime: number): Seconds {
  const from = t.edits.find((e) => e.mediaTime >= 0)?.mediaTime ?? 0
  return emptyOf(t, movieScale) + Math.max(0, firstTime - from) / t.timescale
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
    const times = wide
      ? { duration: elst.u64(), mediaTime: elst.i64() }
      : { duration: elst.u32(), mediaTime: elst.i32() }
    out.push({ ...times, speed: elst.i32() / 65536 })
  }
  return out
}

/** What a matrix of nine does to the plane; where it moves it to is of no account. */
export function readPlacing(r: Reader): Placing {
  const [a, b, , c, d] = Array.from({ length: 9 }, () => r.i32() / 65536)
  return [a!, b!, c!, d!]
}

/** Reads the payload of an `mvhd`. */
export function readMovieHeader(mvhd: Reader): MovieHeader {
  const wide = mvhd.u8() === 1
  mvhd.skip(3 + (wide ? 16 : 8))
  const scale = mvhd.u32() || 1000
  const before = (wide ? 8 : 4) + 16
  if (mvhd.left < before + 36) return { scale, placing: [1, 0, 0, 1] }
  mvhd.skip(before)
  return { scale, placing: readPlacing(mvhd) }
}

function readTrackHeader(tkhd: Reader): TrackHeader {
  const v1 = tkhd.u8() === 1
  const off = (tkhd.u24() & 1) === 0
  tkhd.skip(v1 ? 16 : 8)
  const id = tkhd.u32()
  const before = (v1 ? 12 : 8) + 16
  if (tkhd.left < before + 44) return { id, off, placing: [1, 0, 0, 1], width: 0, height: 0 }
  tkhd.skip(before)
  return { id, off, placing: readPlacing(tkhd), width: tkhd.u32() / 65536, height: tkhd.u32() / 65536 }
}

/** Sample entries by the numbers of those in use, in the order they come (8.7.4); of a fragmented file, all. */
function entriesInUse(stsd: InnerBox | undefined, stbl: readonly InnerBox[]): InnerBox[] {
  if (!stsd) return []
  stsd.data.pos = 8
  const all = innerBoxes(stsd.data)
  const stsc = child(stbl, 'stsc')?.data
  if (all.length < 2 || !stsc) return all.slice(0, 1)
  stsc.pos = 4
  const runs = Math.min(stsc.u32(), Math.floor(stsc.left / 12))
  const used = new Set<number>()
  for (let i = 0; i < runs; i++) {
    stsc.skip(8)
    used.add(stsc.u32())
  }
  return used.size ? [...used].flatMap((n) => all[n - 1] ?? []) : all
}

/** Whether samples that are described by an entry stand in another file (8.7.2). */
function isElsewhere(entry: InnerBox, minf: readonly InnerBox[]): boolean {
  const dinf = child(minf, 'dinf')
  const dref = dinf && child(innerBoxes(dinf.data), 'dref')?.data
  if (!dref || dref.left < 8 || entry.data.left < 8) return false
  dref.skip(8)
  const at = new DataView(entry.data.bytes.buffer, entry.data.bytes.byteOffset).getUint16(6)
  const reference = innerBoxes(dref)[at - 1]?.data
  // the lowest of its flags says that it is this file
  return reference !== undefined && reference.left >= 4 && (reference.u32() & 1) === 0
}

/** The parts of a `trak` that its essence is read by; null when it lacks one. */
export function readTrak(box: InnerBox): Trak | null {
  const parts = innerBoxes(box.data)
  const tkhd = child(parts, 'tkhd')?.data
  const mdia = child(parts, 'mdia')
  if (!tkhd || !mdia) return null
  const header = readTrackHeader(tkhd)
  const { id } = header
  const media = innerBoxes(mdia.data)
  const mdhd = child(media, 'mdhd')?.data
  const hdlr = child(media, 'hdlr')?.data
  const tref = child(parts, 'tref')
  const references = tref ? innerBoxes(tref.data) : []
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
  const inner = innerBoxes(minf.data)
  const stblBox = child(inner, 'stbl')
  if (!stblBox) return null
  const stbl = innerBoxes(stblBox.data)
  const stsd = child(stbl, 'stsd')
  const entries = entriesInUse(stsd, stbl)
  const [entry] = entries
  return {
    ...header,
    kind,
    timescale,
    edits: readEdits(parts),
    stbl,
    entry,
    describedAnew: entries.some((e) => !sameBytes(e.whole, entry!.whole)),
    elsewhere: entry !== undefined && isElsewhere(entry, inner),
    stsdVersion: stsd?.data.bytes[0] ?? 0,
    chapterTracks: tracksNamed(references, 'chap'),
    timecodeTracks: tracksNamed(references, 'tmcd'),
  }
}

/** The tracks that a track refers to for something (ISO/IEC 14496-12 8.3.3). */
function tracksNamed(references: readonly InnerBox[], what: string): number[] {
  const r = child(references, what)?.data
  return r ? Array.from({ length: r.left >> 2 }, () => r.u32()) : []
}
