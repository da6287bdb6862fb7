import type { ByteSource } from '../../bytes'
import { fail } from '../../problem'
import { lastWhere } from '../../time/order'
import { mulDivRound } from '../../time/samples'
import type { AudioTrack, PcmLayout } from '../../media/media'
import { readAudioEntry, type AudioEntry } from './sampleentry'
import { readChunks, readSampleTable, readSizeHead, type ChunkTable, type SampleTable } from './sampletable'
import type { Trak } from './trak'

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

/** A sound track; `cut` says that the file ends before it. */
export function audioTrack(
  trak: Trak,
  fragment: SampleTable | undefined,
  movieScale: number,
  source: ByteSource,
): AudioTrack & { cut: boolean } {
  const entry = readAudioEntry(trak.entry!, trak.stsdVersion)
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
): AudioTrack & { cut: boolean } {
  const frameBytes = entry.pcm.bytesPerSample * entry.pcm.channels
  const { offsets, first } = sampleRuns(trak, frameBytes, fragment, source)
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
  const edited = editedSamples(trak, total, movieScale, entry.info.sampleRate)
  return {
    pcm: entry.pcm,
    configuration: entry.configuration,
    native: entry.native,
    cut,
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

/** Where the runs of uncompressed samples are, the first sample of each, and the total at the end. */
function sampleRuns(
  trak: Trak,
  frameBytes: number,
  fragment: SampleTable | undefined,
  source: ByteSource,
): Pick<ChunkTable, 'offsets' | 'first'> {
  const head = fragment ? null : readSizeHead(trak.stbl, source.name)
  if (head && head.constant > 0) return readChunks(trak.stbl, source.name, head.count)
  const t = fragment ?? readSampleTable(trak.stbl, source.name, source.size)
  const first = new Float64Array(t.count + 1)
  for (let i = 0; i < t.count; i++) first[i + 1] = first[i]! + Math.floor(t.sizes[i]! / frameBytes)
  return { offsets: t.offsets.subarray(0, t.count), first }
}

function codedSound(
  trak: Trak,
  entry: AudioEntry,
  fragment: SampleTable | undefined,
  movieScale: number,
  source: ByteSource,
): AudioTrack & { cut: boolean } {
  const rate = entry.info.sampleRate
  const table = fragment ? { ...fragment, cut: false } : readSampleTable(trak.stbl, source.name, source.size)
  const toSamples = (ticks: number) => mulDivRound(ticks, rate, trak.timescale)
  const last = table.count - 1
  const total = last >= 0 ? toSamples(table.dts[last]! + table.durations[last]!) : 0
  const edited = editedSamples(trak, total, movieScale, rate)
  return {
    pcm: null,
    configuration: entry.configuration,
    native: entry.native,
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
