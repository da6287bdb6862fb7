import type { ByteSource } from '../../bytes'
import { makeRate, nearestRate, otherRate, type Rate, type Seconds } from '../../time/rate'
import { mulDivRound } from '../../time/samples'
import type { VideoInfo, VideoTrack } from '../../media/media'
import { afterwards, asked, placed, shownShape, type Placing } from '../../media/presentation'
import { conform } from '../timing'
import { readVideoEntry, type VideoEntry } from './sampleentry'
import { sampleAt, type SampleTable } from './sampletable'
import { startOf, type Edit, type MovieHeader, type Trak } from './trak'

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
): { rate: Rate; own: Rate | null; constant: boolean } {
  const n = order.length
  if (n < 2) {
    const d = t.durations[0] || timescale / 25
    return { rate: hint ?? makeRate(timescale, Math.max(1, Math.round(d))), own: null, constant: true }
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
    own: standard && constant ? otherRate(standard, n - 1, { length: total, second: timescale, step: 1 }) : null,
    constant,
  }
}

/** What players do to the pictures of a track, which its header and that of the movie place. */
function presented(trak: Trak, entry: VideoEntry, movie: Placing): Pick<VideoInfo, 'presentation'> {
  const { wider, ...turns } = placed(afterwards(trak.placing, movie))
  const { info, aperture } = entry
  const [width, height] = [Math.round(trak.width), Math.round(trak.height)]
  // many writers repeat the coded size there, which says nothing of its shape
  const plain = (width === info.width && height === info.height) || width < 1 || height < 1
  const own = shownShape({ ...info, ...(aperture ? { presentation: { part: aperture } } : {}) })
  return asked(info, {
    ...(trak.off ? { off: true } : {}),
    ...(aperture ? { part: aperture } : {}),
    ...turns,
    shape: (plain ? own : width / height) * wider,
  })
}

/** The beginning of the first sample; null where there is none. */
async function firstOf(table: SampleTable, source: ByteSource): Promise<Uint8Array | null> {
  if (table.count === 0) return null
  const { offset, size } = sampleAt(table, 0)
  return source.read(offset, Math.min(size, 1 << 16))
}

/** A picture track: its frames in display order, kept to what its edit list presents, and when the first is shown. */
export async function videoTrack(
  trak: Trak,
  table: SampleTable,
  movie: MovieHeader,
  source: ByteSource,
): Promise<VideoTrack & { readonly starts: Seconds }> {
  const entry = await readVideoEntry(trak.entry!, () => firstOf(table, source))
  const order = displayOrder(table, trak.edits, trak.timescale, movie.scale)
  const pts = (i: number) => table.dts[i]! + table.cts[i]!
  const told = rateOf(table, order, trak.timescale, entry.timing)
  const last = order.at(-1) ?? 0
  const conformed = told.constant
    ? null
    : conform(Float64Array.from(order, pts), pts(last) + table.durations[last]!, trak.timescale)
  let intra = true
  for (let i = 0; i < table.count && intra; i++) intra = table.sync[i] === 1
  return {
    info: {
      ...entry.info,
      ...presented(trak, entry, movie.placing),
      rate: conformed?.rate ?? told.rate,
      ...(told.own ? { ownRate: told.own } : {}),
      constantRate: told.constant,
      frames: conformed?.shown.length ?? order.length,
      intra,
    },
    starts: startOf(trak, movie.scale, order.length ? pts(order[0]!) : 0),
    timescale: trak.timescale,
    sampleCount: table.count,
    configuration: entry.configuration,
    native: entry.native,
    sample: (i) => sampleAt(table, i),
    sampleOfFrame: (n) => order[conformed ? conformed.shown[n]! : n]!,
    syncBefore: (i) => {
      let k = i
      while (k > 0 && table.sync[k] !== 1) k--
      return k
    },
  }
}
