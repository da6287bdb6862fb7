import { ForwardReader, type ByteSource } from '../../bytes'
import { soundCodec } from '../../codec/registry'
import { fail } from '../../problem'
import { lastWhere } from '../../time/order'
import type { Seconds } from '../../time/rate'
import { mulDivRound } from '../../time/samples'
import { placePackets, type PlacedPackets } from '../packets'
import type { AudioTrack, PcmLayout } from '../../media/media'
import { readAudioEntry, type AudioEntry } from './sampleentry'
import { readChunks, readSampleTable, readSizeHead, type ChunkTable, type SampleTable } from './sampletable'
import { startOf, type Trak } from './trak'

/** What an edit list presents of samples whose first has a time of its own, in ticks of the track. */
export function editedSamples(
  trak: Trak,
  total: number,
  movieScale: number,
  sampleRate: number,
  firstTime: number,
): { start: number; samples: number } {
  const edit = trak.edits.find((e) => e.mediaTime >= 0)
  if (!edit) return { start: 0, samples: total }
  const start = Math.min(total, mulDivRound(Math.max(0, edit.mediaTime - firstTime), sampleRate, trak.timescale))
  const left = total - start
  const wanted = edit.duration === 0 ? left : mulDivRound(edit.duration, sampleRate, movieScale)
  // a movie timescale coarser than the sample rate cannot say the end exactly: within one tick the media's own end
  // counts
  const tick = Math.ceil(sampleRate / movieScale)
  return { start, samples: Math.abs(wanted - left) <= tick ? left : Math.min(left, wanted) }
}

/** A sound track as it stands in the file, before it is counted from the pictures. */
export type ReadTrack = AudioTrack & {
  /** The file ends before it. */
  readonly cut: boolean
  readonly gaps: PlacedPackets['gaps']
  /** When its first sample is presented. */
  readonly starts: Seconds
}

/** Reads a sound track. */
export async function audioTrack(
  trak: Trak,
  fragment: SampleTable | undefined,
  movieScale: number,
  source: ByteSource,
): Promise<ReadTrack> {
  const read = readAudioEntry(trak.entry!, trak.stsdVersion, trak.timescale)
  const entry = trak.off ? { ...read, info: { ...read.info, off: true as const } } : read
  return entry.pcm
    ? plainSound(trak, { ...entry, pcm: entry.pcm }, fragment, movieScale, source)
    : codedSound(trak, entry, fragment, movieScale, source)
}

/** Uncompressed sound: runs of samples, a chunk each. */
function plainSound(
  trak: Trak,
  entry: AudioEntry & { pcm: PcmLayout },
  fragment: SampleTable | undefined,
  movieScale: number,
  source: ByteSource,
): ReadTrack {
  const frameBytes = entry.pcm.bytesPerSample * entry.pcm.channels
  const { offsets, first, time } = sampleRuns(trak, frameBytes, fragment, source)
  const rate = entry.info.sampleRate
  const clock = (i: number) => mulDivRound(fragment!.dts[i]! - fragment!.dts[0]!, rate, trak.timescale)
  const { gaps } = placePackets(fragment ? offsets.length : 0, rate, (i) => first[i + 1]! - first[i]!, clock)
  let total = first[offsets.length] ?? 0
  let cut = false
  for (
    let c = offsets.length - 1;
    c >= 0 && offsets[c]! + (first[c + 1]! - first[c]!) * frameBytes > source.size;
    c--
  ) {
    total = first[c]! + Math.max(0, Math.floor((source.size - offsets[c]!) / frameBytes))
    cut = true
  }
  const edited = editedSamples(trak, total, movieScale, rate, time)
  return {
    pcm: entry.pcm,
    configuration: entry.configuration,
    native: entry.native,
    cut,
    gaps,
    starts: startOf(trak, movieScale, time),
    info: { ...entry.info, samples: edited.samples },
    start: edited.start,
    packetCount: 0,
    packet: () => fail('internal.error', 'PCM sound has no packets.', source.name),
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

/** Where the runs of uncompressed samples are, the first sample of each, the total at the end, and its first time. */
function sampleRuns(
  trak: Trak,
  frameBytes: number,
  fragment: SampleTable | undefined,
  source: ByteSource,
): Pick<ChunkTable, 'offsets' | 'first'> & { readonly time: number } {
  const head = fragment ? null : readSizeHead(trak.stbl, source.name)
  if (head && head.constant > 0) return { ...readChunks(trak.stbl, source.name, head.count), time: 0 }
  const t = fragment ?? readSampleTable(trak.stbl, source.name, source.size)
  const first = new Float64Array(t.count + 1)
  for (let i = 0; i < t.count; i++) first[i + 1] = first[i]! + Math.floor(t.sizes[i]! / frameBytes)
  return { offsets: t.offsets.subarray(0, t.count), first, time: t.dts[0] ?? 0 }
}

async function codedSound(
  trak: Trak,
  entry: AudioEntry,
  fragment: SampleTable | undefined,
  movieScale: number,
  source: ByteSource,
): Promise<ReadTrack> {
  const rate = entry.info.sampleRate
  const table = fragment ? { ...fragment, cut: false } : readSampleTable(trak.stbl, source.name, source.size)
  const { count } = table
  const clock = (i: number) => mulDivRound(table.dts[i]! - table.dts[0]!, rate, trak.timescale)
  const lengths = await packetLengths(table, entry, trak.timescale, source)
  const { pts, durations, gaps } = placePackets(count, rate, (i) => lengths[i]!, clock)
  const firstTime = table.dts[0] ?? 0
  const edited = editedSamples(trak, pts[count] ?? 0, movieScale, rate, firstTime)
  return {
    pcm: null,
    configuration: entry.configuration,
    native: entry.native,
    cut: table.cut,
    gaps,
    starts: startOf(trak, movieScale, firstTime),
    info: { ...entry.info, samples: edited.samples },
    start: edited.start,
    packetCount: count,
    packet: (i) => ({ offset: table.offsets[i]!, size: table.sizes[i]!, pts: pts[i]!, duration: durations[i]! }),
    run: () => fail('internal.error', 'Coded sound has no runs.', source.name),
  }
}

/**
 * Samples of every packet. A table that gives all but the last one duration is believed; one that wavers was written by
 * a clock, and the codec's own lengths hold.
 */
async function packetLengths(
  t: SampleTable,
  entry: AudioEntry,
  timescale: number,
  source: ByteSource,
): Promise<Float64Array> {
  const rate = entry.info.sampleRate
  const at = (i: number) => mulDivRound(t.dts[i]! - t.dts[0]!, rate, timescale)
  const timed = Float64Array.from({ length: t.count }, (_, i) =>
    i + 1 < t.count ? at(i + 1) - at(i) : mulDivRound(t.durations[i]!, rate, timescale),
  )
  const even = t.durations.subarray(0, Math.max(0, t.count - 1)).every((d) => d === t.durations[0])
  const codec = soundCodec(entry.info.codec)
  const length = codec?.packetLength
  const fixed = codec?.describe(entry.configuration).packetSamples
  if (even && timed.every((n, i) => i + 1 === t.count || n === timed[0])) return timed
  if (length) {
    const reader = new ForwardReader(source)
    const out = new Float64Array(t.count)
    for (let i = 0; i < t.count; i++) out[i] = length.of(await reader.at(t.offsets[i]!, length.bytes)) ?? timed[i]!
    return out
  }
  const whole = timed.reduce((n, d) => n + d, 0)
  return fixed && Math.abs((fixed * t.count) / whole - 1) < 0.02 ? new Float64Array(t.count).fill(fixed) : timed
}
