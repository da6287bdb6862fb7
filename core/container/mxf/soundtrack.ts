import type { ByteSource } from '../../bytes'
import { aes3Channels, aes3Header } from '../../codec/pcm/aes3'
import type { AudioTrack, PcmLayout } from '../../media/media'
import { untoldSound } from '../../media/stated'
import { fail, type Problem } from '../../problem'
import { makeRate, type Rate } from '../../time/rate'
import type { Elements } from './elements'
import type { Track } from './programme'

/** Of a track's number, its item and its element: those of eight channels of D-10 (SMPTE ST 386 6.3). */
const [itemAndElement, elementsOfWords] = [0xff00ff00, 0x06001000]

/** How the samples of a track lie in its elements: PCM, or the eight channels of D-10 behind a header. */
function layoutIn(t: Track): { readonly pcm: PcmLayout; readonly channels: number; readonly header: number } {
  const channels = Math.max(1, t.descriptor.u32('channels') ?? 1)
  if ((t.number & itemAndElement) === elementsOfWords) {
    const pcm = { bytesPerSample: 4, kind: 'aes3', littleEndian: true, channels: aes3Channels } as const
    return { pcm, channels: Math.min(channels, aes3Channels), header: aes3Header }
  }
  const frameBytes = t.descriptor.u16('blockAlign') || channels * Math.ceil((saidDepth(t) ?? usualDepth) / 8)
  const bytesPerSample = Math.max(1, Math.round(frameBytes / channels))
  return { pcm: { bytesPerSample, kind: 'int', littleEndian: true, channels }, channels, header: 0 }
}

const saidDepth = ({ descriptor }: Track) => descriptor.u32('quantisation') || null

/** What is usual where a file does not say it. */
const [usualDepth, usualRate] = [24, makeRate(48_000)]

/** The label of how sound is coded, where it is one of those of compressed sound (SMPTE RP 224: 04020202). */
function codingOf({ descriptor }: Track): string | null {
  const label = descriptor.label('soundCoding')
  return label?.slice(16, 24) === '04020202' ? label : null
}

/** What is wrong with elements of eight channels: the first of them do not hold what they say. */
export async function wordsFault(source: ByteSource, t: Track, found: Elements): Promise<Problem | null> {
  const { pcm, header } = layoutIn(t)
  if (header === 0) return null
  for (let i = 0; i < Math.min(found.count, 5); i++) {
    const head = await source.read(found.at(i), header)
    const said = (head[1] ?? 0) | ((head[2] ?? 0) << 8)
    const room = Math.floor((found.size(i) - header) / (pcm.bytesPerSample * pcm.channels))
    if (said !== room)
      return {
        code: 'mxf.samples',
        damage: true,
        message: `An element of sound says that it has ${said} samples; there is room for ${room}.`,
        where: source.name,
        fix: 'Copy the file again from where it came from.',
      }
  }
  return null
}

/** A track of PCM. */
export function soundTrack(t: Track, found: Elements, rate: Rate): AudioTrack {
  const d = t.descriptor
  const { pcm, channels, header } = layoutIn(t)
  const frameBytes = pcm.bytesPerSample * pcm.channels
  const said = { rate: d.rate('soundRate'), depth: saidDepth(t) }
  const { num, den } = said.rate ?? usualRate
  const sampleRate = Math.round(num / den)
  const counts = runsOf(found, frameBytes, header)
  // where the programme begins: behind the elements before its first frame, of a clip behind so many samples
  const skipped = found.count === 1 ? Math.round((t.start * sampleRate * rate.den) / rate.num) : counts.before(t.start)
  const samples = Math.max(0, counts.total - skipped)
  const coding = codingOf(t)
  const bitDepth = said.depth ?? (pcm.kind === 'int' ? pcm.bytesPerSample * 8 : usualDepth)
  return {
    info: {
      ...{ codec: coding ?? 'pcm', channels, sampleRate, bitDepth, samples, layout: null, webCodec: null },
      ...untoldSound({ sampleRate: said.rate, bitDepth: said.depth }),
    },
    start: skipped,
    pcm: coding ? null : pcm,
    packetCount: 0,
    configuration: null,
    native: null,
    packet: () => fail('internal.error', 'PCM sound has no packets.'),
    run(at) {
      const i = counts.find(at)
      const inside = at - counts.before(i)
      const there = Math.floor((found.size(i) - header) / frameBytes)
      return { offset: found.at(i) + header + inside * frameBytes, samples: there - inside }
    },
  }
}

/** How many samples lie before each element of a track. */
function runsOf(found: Elements, frameBytes: number, header = 0) {
  const starts = new Float64Array(found.count + 1)
  for (let i = 0; i < found.count; i++) starts[i + 1] = starts[i]! + Math.floor((found.size(i) - header) / frameBytes)
  return {
    total: starts[found.count]!,
    before: (i: number) => starts[Math.min(i, found.count)]!,
    find(at: number) {
      let [from, to] = [0, found.count - 1]
      while (from < to) {
        const middle = (from + to + 1) >> 1
        if (starts[middle]! <= at) from = middle
        else to = middle - 1
      }
      return from
    },
  }
}
