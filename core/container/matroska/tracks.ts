import type { ByteSource } from '../../bytes'
import { fail } from '../../problem'
import { lastWhere } from '../../time/order'
import { makeRate, nearestRate, otherRate, type Rate, type Samples } from '../../time/rate'
import { mulDivRound } from '../../time/samples'
import { placePackets, type PlacedPackets } from '../packets'
import { conform } from '../timing'
import { pictureCodecCalled, soundCodecCalled } from '../../codec/registry'
import type { AudioInfo, AudioTrack, PcmLayout, Scan, VideoInfo, VideoTrack } from '../../media/media'
import { asked } from '../../media/presentation'
import { hasOrder } from '../../media/scan'
import { heldTogether, joinedColour, untoldBy, untoldSound, type StatedColour } from '../../media/stated'
import type { Track } from './blocks'
import { field, float, id, none, numberIn, unsigned } from './ebml'

/** A picture track; `unit` is its first frame where the track has no configuration of its own. */
export function videoTrack(t: Track, scale: number, unit: Uint8Array | null): VideoTrack {
  const n = (which: number) => numberIn(t.video!, which)
  const [width, height] = [n(id.width), n(id.height)]
  const count = t.offsets.length
  const order = Array.from({ length: count }, (_, i) => i).sort((a, b) => t.times[a]! - t.times[b]! || a - b)
  const place = new Int32Array(count)
  order.forEach((index, frame) => (place[index] = frame))
  const told = rateOf(t, order, scale)
  const step = t.duration
    ? t.duration / scale
    : (t.times[order.at(-1)!]! - t.times[order[0]!]!) / Math.max(1, count - 1)
  const conformed = told.constant
    ? null
    : conform(
        order.map((i) => t.times[i]!),
        t.times[order.at(-1)!]! + step,
        1e9 / scale,
      )
  const rate = conformed?.rate ?? told.rate
  const frames = conformed?.shown.length ?? count
  const codec = pictureCodecCalled('matroska', t.codec)
  const said = codec?.describe(t.private, unit) ?? {}
  const configuration = codec?.calls.mp4?.box ? t.private : null
  const part = partOf(t.video!, width, height)
  const stated = {
    ...{ width, height, colour: readColour(t.video!), scan: readScan(n(id.interlaced), n(id.fieldOrder)) },
    // the size to show is that of what is left (RFC 9559 5.1.4.1.28.12)
    pixelAspect: aspectOf(part.width, part.height, n(id.displayWidth), n(id.displayHeight)),
  }
  const size = t.private ? { width: said.width ?? width, height: said.height ?? height } : { width, height }
  const pixelAspect = stated.pixelAspect ?? said.pixelAspect ?? '1:1'
  const info: Omit<VideoInfo, 'rate' | 'constantRate' | 'frames' | 'intra'> = {
    codec: said.codec ?? codec?.name ?? t.codec.replace(/^V_/, '').toLowerCase(),
    profile: said.profile ?? null,
    level: said.level ?? null,
    ...{ ...size, pixelAspect, ...presented(t, { ...size, pixelAspect }, part) },
    // parameter sets know no order of fields
    scan: (stated.scan && hasOrder(stated.scan) ? stated.scan : (said.scan ?? stated.scan)) ?? 'progressive',
    chroma: said.chroma ?? '4:2:0',
    bitDepth: said.bitDepth ?? 8,
    ...(n(id.alpha) === 1 ? { alpha: true } : {}),
    colour: joinedColour(stated.colour, said.colour ?? null),
    ...heldTogether(stated, said),
    ...untoldBy(stated, said),
    webCodec: said.webCodec ?? null,
  }
  // times of whole frames: the file's own are rounded to its ticks
  const delay = t.times.reduce((most, _, i) => Math.max(most, i - place[i]!), 0)
  return {
    info: {
      ...{ ...info, rate, constantRate: told.constant, frames, intra: t.sync.every((s) => s === 1) },
      ...(told.own ? { ownRate: told.own } : {}),
    },
    timescale: rate.num,
    sampleCount: count,
    configuration,
    native: null,
    sample: (i) => ({
      offset: t.offsets[i]!,
      size: t.sizes[i]!,
      dts: (i - delay) * rate.den,
      pts: place[i]! * rate.den,
      sync: t.sync[i] === 1,
    }),
    sampleOfFrame: (frame) => order[conformed ? conformed.shown[frame]! : frame]!,
    syncBefore: (i) => {
      let k = i
      while (k > 0 && t.sync[k] !== 1) k--
      return k
    },
  }
}

/** What is left of pictures when their edges are cut off. */
function partOf(video: Uint8Array, width: number, height: number) {
  const n = (which: number) => numberIn(video, which)
  return { width: width - n(id.cropLeft) - n(id.cropRight), height: height - n(id.cropTop) - n(id.cropBottom) }
}

/** What players do to the pictures of a track (RFC 9559 5.1.4.1.4, 5.1.4.1.28.3, .8 to .11, .41 to .46). */
function presented(
  t: Track,
  coded: Pick<VideoInfo, 'width' | 'height' | 'pixelAspect'>,
  part: { readonly width: number; readonly height: number },
): Pick<VideoInfo, 'presentation'> {
  const projection = field(t.video!, id.projection)
  const rolled = projection && field(projection, id.projectionRoll)
  const roll = Math.round(rolled ? float(rolled) : 0)
  return asked(coded, {
    ...(t.off ? { off: true } : {}),
    ...(part.width > 0 && part.height > 0 ? { part } : {}),
    // a roll turns the picture to the left
    ...(Number.isFinite(roll) ? { turned: (((360 - roll) % 360) + 360) % 360 } : {}),
    ...(numberIn(t.video!, id.stereo) > 0 ? { twoViews: true } : {}),
    ...(projection && numberIn(projection, id.projectionType) > 0 ? { around: true } : {}),
  })
}

/** The colour a track states (RFC 9559 5.1.4.1.28.16); null when it states none. */
function readColour(video: Uint8Array): StatedColour | null {
  const bytes = field(video, id.colour)
  if (!bytes) return null
  const n = (which: number) => (field(bytes, which) ? numberIn(bytes, which) : 2)
  const range = numberIn(bytes, id.range)
  const colour = { primaries: n(id.primaries), transfer: n(id.transfer), matrix: n(id.matrix) }
  const none = colour.primaries === 2 && colour.transfer === 2 && colour.matrix === 2 && range !== 1 && range !== 2
  return none ? null : { ...colour, fullRange: range === 1 || range === 2 ? range === 2 : null }
}

/** The scan a track states (RFC 9559 5.1.4.1.28.1, 5.1.4.1.28.2); null where it states none. */
function readScan(interlaced: number, order: number): Scan | null {
  if (interlaced !== 1) return interlaced === 2 ? 'progressive' : null
  if (order === 1 || order === 14) return 'interlaced-tff'
  return order === 6 || order === 9 ? 'interlaced-bff' : 'interlaced'
}

/** Null where no size to show is stated. */
function aspectOf(width: number, height: number, displayWidth: number, displayHeight: number): string | null {
  if (!displayWidth || !displayHeight || !width || !height) return null
  const r = makeRate(displayWidth * height, displayHeight * width)
  return Math.abs(r.num / r.den - 1) < 0.01 ? '1:1' : `${r.num}:${r.den}`
}

/**
 * The rate a track says, else that of its mean frame; constant when no frame lies more than its rounding beside its
 * place.
 */
function rateOf(
  t: Track,
  order: readonly number[],
  scale: number,
): { rate: Rate; own: Rate | null; constant: boolean } {
  const [first, last] = [t.times[order[0]!]!, t.times[order.at(-1)!]!]
  const mean = order.length > 1 ? ((last - first) * scale) / (order.length - 1) : t.duration || 40_000_000
  const wanted = t.duration > 0 && Math.abs(t.duration / mean - 1) < 0.02 ? t.duration : mean
  const value = 1e9 / Math.max(1, wanted)
  const standard = nearestRate(value)
  const rate = standard ?? makeRate(Math.max(1, Math.round(value * 1000)), 1000)
  const step = (1e9 * rate.den) / rate.num / scale
  const constant = order.every((index, n) => Math.abs(t.times[index]! - first - n * step) <= 1.5 + n * step * 1e-4)
  const times = { length: (last - first) * scale, second: 1e9, step: scale }
  return { rate, own: standard && constant ? otherRate(standard, order.length - 1, times) : null, constant }
}

/** A sound track of a Matroska file, and where packets are missing in it. */
export function audioTrack(
  t: Track,
  scale: number,
  source: ByteSource,
): AudioTrack & { readonly gaps: PlacedPackets['gaps'] } {
  const bytes = (which: number) => field(t.audio!, which) ?? none
  const codec = soundCodecCalled('matroska', t.codec)
  const own = codec?.describe(t.private) ?? {}
  const sampleRate = own.sampleRate || Math.round(float(bytes(id.rate))) || 8000
  const channels = own.channels || Math.max(1, Math.min(255, unsigned(bytes(id.channels).subarray(0, 4)) || 1))
  const told = own.bitDepth || unsigned(bytes(id.bits).subarray(0, 4)) || null
  const bits = told ?? 16
  const pcmKind = {
    'A_PCM/INT/LIT': ['int', true],
    'A_PCM/INT/BIG': ['int', false],
    'A_PCM/FLOAT/IEEE': ['float', true],
  }[t.codec] as ['int' | 'float', boolean] | undefined
  const pcm: PcmLayout | null = pcmKind
    ? { bytesPerSample: bits >> 3 || 2, kind: pcmKind[0], littleEndian: pcmKind[1], channels }
    : null
  const base: Omit<AudioInfo, 'samples'> = {
    codec: codec?.name ?? t.codec.replace(/^A_/, '').toLowerCase(),
    channels,
    sampleRate,
    bitDepth: bits,
    layout: null,
    ...(t.off ? { off: true } : {}),
    webCodec: own.webCodec ?? null,
    ...(codec?.keepsDepth ? untoldSound({ sampleRate, bitDepth: told }) : {}),
  }
  const unread = () => fail('internal.error', 'This sound is not read this way.', source.name)
  const rest = { configuration: null, native: null, packet: unread, run: unread }
  const timed = placesOf(t, (ticks) => mulDivRound(Math.round(ticks * scale), sampleRate, 1e9), scale)
  return pcm ? { ...rest, ...plainSound(t, base, pcm, timed) } : { ...rest, ...codedSound(t, base, timed) }
}

/** Uncompressed sound: each block holds a run of samples, and follows the one before, whatever the clock says. */
function plainSound(t: Track, base: Omit<AudioInfo, 'samples'>, pcm: PcmLayout, timed: Float64Array) {
  const count = t.offsets.length
  const frame = pcm.bytesPerSample * pcm.channels
  const first = new Float64Array(count + 1)
  for (let i = 0; i < count; i++) first[i + 1] = first[i]! + Math.floor(t.sizes[i]! / frame)
  return {
    info: { ...base, samples: first[count]! },
    start: 0,
    gaps: placePackets(
      count,
      base.sampleRate,
      (i) => first[i + 1]! - first[i]!,
      (i) => timed[i]!,
    ).gaps,
    pcm,
    packetCount: 0,
    run: (at: number) => {
      const block = Math.max(
        0,
        lastWhere(count, (i) => first[i]! <= at),
      )
      return { offset: t.offsets[block]! + (at - first[block]!) * frame, samples: first[block + 1]! - at }
    },
  }
}

/**
 * Where packets begin by the clock, and where the last one ends, in samples. Those laced together have one time: they
 * lie evenly between it and that of the next block. A last block of no said length is as long as those before.
 */
function placesOf({ times, duration, last }: Track, samples: (ticks: number) => Samples, scale: number): Float64Array {
  const count = times.length
  const out = new Float64Array(count + 1)
  for (let from = 0; from < count;) {
    let to = from + 1
    while (to < count && times[to] === times[from]) to++
    const mean = from > 0 ? (times[from]! - times[0]!) / from : 0
    const own = last?.ticks || (duration ? duration / scale : mean) * (to - from)
    const [begin, end] = [
      times[from]! - times[0]!,
      to < count ? times[to]! - times[0]! : times[from]! - times[0]! + own,
    ]
    for (let i = from; i < to; i++) out[i] = samples(begin + ((end - begin) * (i - from)) / (to - from))
    out[to] = samples(end)
    from = to
  }
  return out
}

/**
 * Coded sound. Packets follow each other without a gap: their places are counted where their length is known, else
 * taken from the clock.
 */
function codedSound(t: Track, base: Omit<AudioInfo, 'samples'>, timed: Float64Array) {
  const { sampleRate } = base
  const count = t.offsets.length
  const codec = soundCodecCalled('matroska', t.codec)
  const fixed = codec?.describe(t.private).packetSamples ?? 0
  const length = (i: number) => t.lengths[i] ?? (fixed || timed[i + 1]! - timed[i]!)
  const { pts, durations, gaps } = placePackets(count, sampleRate, length, (i) => timed[i]!)
  const samples = (ns: number) => mulDivRound(ns, sampleRate, 1_000_000_000)
  const [delay, unheard] = [samples(t.delay), samples(Math.max(0, t.last?.discard ?? 0))]
  return {
    info: { ...base, samples: Math.max(0, pts[count]! - delay - unheard) },
    start: delay,
    gaps,
    pcm: null,
    packetCount: count,
    configuration: t.private && codec?.name !== 'opus' ? t.private : null,
    packet: (i: number) => ({
      offset: t.offsets[i]!,
      size: t.sizes[i]!,
      pts: pts[i]!,
      duration: durations[i]!,
    }),
  }
}
