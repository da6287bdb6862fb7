import type { ByteSource } from '../../bytes'
import { pictureCodecCalled } from '../../codec/registry'
import type { PictureDescription } from '../../codec/codec'
import type { Chroma, Colour, Scan, VideoTrack } from '../../media/media'
import { asked } from '../../media/presentation'
import { heldTogether, joinedColour, untoldBy, type StatedColour } from '../../media/stated'
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
  const { part, ...stated } = statedBy(d, said)
  const pixelAspect = stated.pixelAspect ?? said.pixelAspect ?? '1:1'
  const width = said.width ?? stated.width ?? 0
  const height = said.height ?? stated.height ?? 0
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
      ...{ width, height, pixelAspect, ...asked({ width, height, pixelAspect }, part ? { part } : {}) },
      rate,
      constantRate: true,
      scan: stated.scan ?? said.scan ?? 'progressive',
      chroma: said.chroma ?? stated.chroma ?? '4:2:2',
      bitDepth: said.bitDepth ?? stated.bitDepth ?? 8,
      colour: joinedColour(stated.colour, said.colour ?? null),
      ...heldTogether(stated, said),
      ...untoldBy(stated, said),
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

/** What a descriptor states of pictures that say something themselves. */
function statedBy(d: ReadSet, said: PictureDescription) {
  const frameLayout = d.u8('frameLayout')
  const { part, ...size } = sizeOf(d, frameLayout === 1 || frameLayout === 2 || frameLayout === 4, said)
  const [across, down] = [d.u32('horizontalSubsampling'), d.u32('verticalSubsampling')]
  const ratio = d.rate('aspectRatio')
  const chroma: Chroma | null = across === null ? null : across === 1 ? '4:4:4' : down === 2 ? '4:2:0' : '4:2:2'
  const shape = part ?? { width: said.width ?? size.width ?? 0, height: said.height ?? size.height ?? 0 }
  return {
    ...{ ...size, part },
    scan: frameLayout === null ? null : (layouts[frameLayout]?.(d.u8('fieldDominance')) ?? null),
    chroma,
    bitDepth: d.u32('componentDepth'),
    pixelAspect: ratio && pixelShape(ratio, shape.width, shape.height),
    colour: colourOf(d, said.colour ?? null),
  }
}

/**
 * The size of pictures. A descriptor has three, of what is stored, sampled and shown: that of the stream is taken for
 * whichever it is, and what is stored may go on to the end of its last macroblocks.
 */
function sizeOf(d: ReadSet, fields: boolean, { width, height }: PictureDescription) {
  const lines = (v: number | null) => v && (fields ? v * 2 : v)
  const stored = { width: d.u32('storedWidth'), height: lines(d.u32('storedHeight')) }
  const sampled = { width: d.u32('sampledWidth'), height: lines(d.u32('sampledHeight')) }
  const shown = { width: d.u32('displayWidth'), height: lines(d.u32('displayHeight')) }
  const all = [stored, sampled, shown]
  const whole = (v: number, by: number) => Math.ceil(v / by) * by
  const own = (side: 'width' | 'height', v: number | undefined) =>
    v !== undefined && all.some((s) => [v, whole(v, 16), whole(v, 32)].includes(s[side] ?? 0)) ? v : null
  const coded = {
    width: own('width', width) ?? sampled.width ?? stored.width,
    height: own('height', height) ?? sampled.height ?? stored.height,
  }
  return { ...coded, part: partOf({ width: width ?? coded.width, height: height ?? coded.height }, shown) }
}

type Stated = { readonly width: number | null; readonly height: number | null }

/** What of pictures is shown, where that is less than all; some writers count the lines of a field where all are. */
function partOf(all: Stated, shown: Stated): { readonly width: number; readonly height: number } | null {
  const [width, height] = [shown.width ?? all.width, shown.height ?? all.height]
  if (!width || !height || !all.width || !all.height || width > all.width || height > all.height) return null
  return height * 2 === all.height || (width === all.width && height === all.height) ? null : { width, height }
}

/** How much wider than high a pixel is, as a fraction. */
function pixelShape(ratio: Rate, width: number, height: number): string {
  if (width === 0 || height === 0) return '1:1'
  const r = makeRate(ratio.num * height, ratio.den * width)
  return Math.abs(r.num / r.den - 1) < 0.01 ? '1:1' : `${r.num}:${r.den}`
}

/** The colour that is described: one label stands for several code points. */
function colourOf(d: ReadSet, stream: Colour | null): StatedColour | null {
  // that of the stream is taken where it is one of them, else what goes with the primaries
  const point = (name: 'primaries' | 'transfer' | 'matrix', usual: number) => {
    const label = d.label(name)
    const points = label ? codePoints(colourLabels[name], label) : []
    return [stream?.[name], usual].find((p) => p !== undefined && points.includes(p)) ?? points[0] ?? null
  }
  const primaries = point('primaries', 1)
  const usual = primaries === 5 || primaries === 6 ? 6 : 1
  const [transfer, matrix] = [point('transfer', usual), point('matrix', usual)]
  const range = d.u32('colourRange')
  if (primaries === null && transfer === null && matrix === null && range === null) return null
  return {
    ...{ primaries: primaries ?? 2, transfer: transfer ?? 2, matrix: matrix ?? 2 },
    fullRange: range === null ? null : range >= 2 ** (d.u32('componentDepth') ?? 8) - 1,
  }
}
