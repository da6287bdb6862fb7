import { fail } from '../../problem'
import type { Seconds } from '../../time/rate'
import { child, innerBoxes, type InnerBox } from './boxes'

export interface Edit {
  readonly duration: number
  readonly mediaTime: number
}

export interface Trak {
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

/**
 * When a track is first presented, whose first sample shown has a time of its own: after what its edit list leaves
 * empty.
 */
export function startOf(t: Pick<Trak, 'edits' | 'timescale'>, movieScale: number, firstTime: number): Seconds {
  const shown = t.edits.findIndex((e) => e.mediaTime >= 0)
  const empty = t.edits.slice(0, Math.max(0, shown)).reduce((n, e) => n + e.duration, 0) / movieScale
  const from = t.edits[shown]?.mediaTime ?? 0
  return empty + Math.max(0, firstTime - from) / t.timescale
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

/** The parts of a `trak` that its essence is read by; null when it lacks one. */
export function readTrak(box: InnerBox): Trak | null {
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
