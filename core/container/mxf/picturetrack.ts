import type { ByteSource } from '../../bytes'
import { pictureCodecCalled } from '../../codec/registry'
import type { Colour, Scan, VideoTrack } from '../../media/media'
import { makeRate, type Rate } from '../../time/rate'
import { cutClip, type Elements, type Index } from './elements'
import { codePoints, colourLabels } from './labels'
import type { ReadSet } from './metadata'
import type { Track } from './programme'

/** How pictures are laid out in lines (SMPTE ST 377-1 G.2.1); what the dominant field is, of mixed ones. */
const layouts: Readonly<Record<number, (dominance: number | null) => Scan>> = {
  0: () => 'progressive',
  1: (first) => (first === 2 ? 'interlaced-bff' : 'interlaced-tff'),
  3: () => 'interlaced',
  4: () => 'segmented',
}

/** A track of pictures, as its descriptor and its stream say. */
export async function pictureTrack(
  source: ByteSource,
  t: Track,
  found: Elements,
  index: Index | null,
  rate: Rate,
): Promise<VideoTrack> {
  const d = t.descriptor
  const coding = d.label('pictureCoding') ?? ''
  const codec = pictureCodecCalled('mxf', coding.slice(0, 14) + coding.slice(16))
  const elements = found.count === 1 && (t.duration ?? 0) > 1 ? cutClip(found, index, null) : found
  const head = elements.count > 0 ? await source.read(elements.at(0), Math.min(elements.size(0), 1 << 16)) : null
  const said = codec?.describe(null, head) ?? {}
  const lines = d.u32('sampledHeight') ?? d.u32('storedHeight') ?? 0
  const frameLayout = d.u8('frameLayout') ?? 0
  const fields = frameLayout === 1 || frameLayout === 2 || frameLayout === 4
  const vertical = d.u32('verticalSubsampling') ?? 1
  const horizontal = d.u32('horizontalSubsampling') ?? 2
  const ratio = d.rate('aspectRatio')
  const width = said.width ?? d.u32('sampledWidth') ?? d.u32('storedWidth') ?? 0
  const height = said.height ?? (fields ? lines * 2 : lines)
  const frames = Math.max(0, elements.count - t.start)
  const entries = index && index.entries.length >= elements.count ? index.entries : null
  const intra = !entries || entries.every((e) => e.temporal === 0 && e.sync)
  const place = (n: number) => n + t.start + (entries?.[n + t.start]?.temporal ?? 0)
  const shownAt = new Map<number, number>()
  if (entries) for (let n = 0; n < frames; n++) shownAt.set(place(n), n)
  return {
    info: {
      codec: said.codec ?? codec?.name ?? (coding || 'unknown'),
      profile: said.profile ?? null,
      level: said.level ?? null,
      width,
      height,
      rate,
      constantRate: true,
      scan: layouts[frameLayout]?.(d.u8('fieldDominance')) ?? said.scan ?? 'progressive',
      chroma: said.chroma ?? (horizontal === 1 ? '4:4:4' : vertical === 2 ? '4:2:0' : '4:2:2'),
      bitDepth: said.bitDepth ?? d.u32('componentDepth') ?? 8,
      pixelAspect: ratio ? pixelAspect(ratio, width, height) : (said.pixelAspect ?? '1:1'),
      colour: colourOf(d, said.colour ?? null),
      frames,
      intra,
      webCodec: said.webCodec ?? null,
    },
    timescale: rate.num,
    sampleCount: elements.count,
    sample: (i) => ({
      offset: elements.at(i),
      size: elements.size(i),
      dts: i * rate.den,
      pts: (shownAt.get(i) ?? i - t.start) * rate.den,
      sync: entries?.[i]?.sync ?? true,
    }),
    sampleOfFrame: (n) => Math.min(elements.count - 1, Math.max(0, place(n))),
    syncBefore(i) {
      while (entries && i > 0 && !entries[i]!.sync) i--
      return i
    },
    configuration: null,
    native: null,
  }
}

/** How much wider than high a pixel is, as a fraction. */
function pixelAspect(ratio: Rate, width: number, height: number): string {
  if (width === 0 || height === 0) return '1:1'
  const r = makeRate(ratio.num * height, ratio.den * width)
  return Math.abs(r.num / r.den - 1) < 0.01 ? '1:1' : `${r.num}:${r.den}`
}

/** The colour that is described; what is not, as the stream itself has it. */
function colourOf(d: ReadSet, stream: Colour | null): Colour | null {
  // one label stands for several code points: that of the stream, else what goes with the primaries
  const point = (name: 'primaries' | 'transfer' | 'matrix', usual: number) => {
    const label = d.label(name)
    const points = label ? codePoints(colourLabels[name], label) : []
    return [stream?.[name], usual].find((p) => p !== undefined && points.includes(p)) ?? points[0] ?? null
  }
  const primaries = point('primaries', 1)
  const usual = primaries === 5 || primaries === 6 ? 6 : 1
  const [transfer, matrix] = [point('transfer', usual), point('matrix', usual)]
  if (primaries === null && transfer === null && matrix === null) return stream
  const depth = d.u32('componentDepth') ?? 8
  const range = d.u32('colourRange')
  const fullRange = range !== null && range >= 2 ** depth - 1
  return {
    primaries: primaries ?? stream?.primaries ?? 2,
    transfer: transfer ?? stream?.transfer ?? 2,
    matrix: matrix ?? stream?.matrix ?? 2,
    fullRange: range === null ? (stream?.fullRange ?? false) : fullRange,
  }
}
