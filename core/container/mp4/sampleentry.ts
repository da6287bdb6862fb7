import { Reader } from '../../bytes'
import { fail } from '../../problem'
import { makeRate, type Rate } from '../../time/rate'
import type { PictureCodec } from '../../codec/codec'
import { pictureCodecCalled, soundCodecCalled } from '../../codec/registry'
import type { AudioInfo, NativeDescription, PcmLayout, Scan, VideoInfo } from '../../media/media'
import { heldTogether, joinedColour, untoldBy, type StatedColour } from '../../media/stated'
import { child, innerBoxes, printable, type InnerBox } from './boxes'
import { asDecoded } from '../../sound/layout'
import { channelLayout } from './channels'
import { objectType } from './esds'
import { soundConfiguration } from './soundconfiguration'

/** A picture sample entry, less what only the sample table knows. */
export interface VideoEntry {
  readonly info: Omit<VideoInfo, 'rate' | 'constantRate' | 'frames' | 'intra'>
  readonly configuration: Uint8Array | null
  readonly timing: Rate | null
  readonly aperture: { readonly width: number; readonly height: number } | null
  readonly native: NativeDescription
}

export interface AudioEntry {
  readonly info: Omit<AudioInfo, 'samples'>
  readonly pcm: PcmLayout | null
  readonly configuration: Uint8Array | null
  readonly native: NativeDescription
}

const nativeOf = (box: InnerBox): NativeDescription => ({ container: 'mp4', bytes: box.whole })

function readColour(boxes: readonly InnerBox[]): StatedColour | null {
  const colr = child(boxes, 'colr')?.data
  if (!colr || colr.left < 10) return null
  const kind = colr.tag()
  if (kind !== 'nclc' && kind !== 'nclx') return null
  // the older kind has no place for the range
  const colour = { primaries: colr.u16(), transfer: colr.u16(), matrix: colr.u16(), fullRange: null }
  return kind === 'nclx' && colr.left > 0 ? { ...colour, fullRange: (colr.u8() & 0x80) !== 0 } : colour
}

function readScan(boxes: readonly InnerBox[]): Scan | null {
  const fiel = child(boxes, 'fiel')?.data
  if (!fiel || fiel.left < 2) return null
  if (fiel.u8() < 2) return 'progressive'
  const order = fiel.u8()
  if (order === 1 || order === 14) return 'interlaced-tff'
  return order === 6 || order === 9 ? 'interlaced-bff' : 'interlaced'
}

function readAspect(boxes: readonly InnerBox[]): string | null {
  const pasp = child(boxes, 'pasp')?.data
  if (!pasp || pasp.left < 8) return null
  const [h, v] = [pasp.u32(), pasp.u32()]
  if (h === 0 || v === 0) return null
  const r = makeRate(h, v)
  return `${r.num}:${r.den}`
}

/** The part of pictures that is shown (ISO/IEC 14496-12 12.1.4.1); null where all of them is. */
function readAperture(boxes: readonly InnerBox[]): VideoEntry['aperture'] {
  const clap = child(boxes, 'clap')?.data
  if (!clap || clap.left < 32) return null
  const [width, height] = [clap.u32() / clap.u32(), clap.u32() / clap.u32()].map(Math.round)
  return width! > 0 && height! > 0 && Number.isFinite(width! * height!) ? { width: width!, height: height! } : null
}

/** The codec of a picture sample entry; one code stands for many, which its configuration tells apart. */
function codecOf(type: string, boxes: readonly InnerBox[]): PictureCodec | null {
  const esds = type === 'mp4v' ? child(boxes, 'esds')?.data.bytes : undefined
  const object = esds && objectType(esds)
  return pictureCodecCalled('mp4', object ? `${type}.${object.toString(16)}` : type)
}

/**
 * Reads a VisualSampleEntry (ISO/IEC 14496-12 12.1.3; -15 for AVC and HEVC). `first` gives the first sample, of codecs
 * whose pictures say themselves what they are.
 */
export async function readVideoEntry(box: InnerBox, first: () => Promise<Uint8Array | null>): Promise<VideoEntry> {
  const r = new Reader(box.data.bytes, box.data.name, box.data.base)
  r.skip(24)
  const width = r.u16()
  const height = r.u16()
  r.skip(46)
  const depth = r.u16()
  r.skip(2)
  if (box.type === 'encv')
    fail('mp4.encrypted', 'The pictures are encrypted.', box.data.name, 'Ask for an unencrypted copy.')
  const boxes = innerBoxes(r)
  const codec = codecOf(box.type, boxes)
  const name = codec?.calls.mp4?.box
  const configuration = (name ? child(boxes, name)?.data.bytes : undefined) ?? null
  const tells = codec?.calls.mp4?.tells
  const head = codec?.calls.mp4?.inStream ? await first() : null
  const said = codec?.describe((tells ? child(boxes, tells)?.data.bytes : configuration) ?? null, head) ?? {}
  const stated = { width, height, scan: readScan(boxes), pixelAspect: readAspect(boxes), colour: readColour(boxes) }
  return {
    info: {
      codec: said.codec ?? codec?.name ?? printable(box.type).trim(),
      profile: said.profile ?? codec?.calls.mp4?.profiles?.[box.type] ?? null,
      level: said.level ?? null,
      width: said.width ?? width,
      height: said.height ?? height,
      scan: stated.scan ?? said.scan ?? 'progressive',
      chroma: said.chroma ?? '4:2:0',
      bitDepth: said.bitDepth ?? 8,
      pixelAspect: stated.pixelAspect ?? said.pixelAspect ?? '1:1',
      colour: joinedColour(stated.colour, said.colour ?? null),
      // 32 are four channels (QuickTime File Format); of codecs that are known here the stream says whether it has them
      ...(said.alpha || (depth === 32 && !codec) ? { alpha: true as const } : {}),
      ...heldTogether(stated, said),
      ...untoldBy(stated, said),
      webCodec: said.webCodec ?? null,
    },
    configuration,
    timing: said.timing ?? null,
    aperture: readAperture(boxes),
    native: nativeOf(box),
  }
}

/** PCM kinds of MOV and ISO (ISO/IEC 23003-5) files; null for coded sound. */
function pcmLayout(
  type: string,
  channels: number,
  bits: number,
  flags: number | null,
  boxes: readonly InnerBox[],
): PcmLayout | null {
  const wave = child(boxes, 'wave')
  const enda = child(wave ? innerBoxes(wave.data) : boxes, 'enda')?.data
  const little = enda ? enda.u16() === 1 : false
  const layout = (bytesPerSample: number, kind: PcmLayout['kind'], littleEndian: boolean): PcmLayout => ({
    bytesPerSample,
    kind,
    littleEndian,
    channels,
  })
  switch (type) {
    case 'sowt':
      return layout(Math.max(1, bits >> 3), 'int', true)
    case 'twos':
      return layout(Math.max(1, bits >> 3), 'int', false)
    case 'in24':
      return layout(3, 'int', little)
    case 'in32':
      return layout(4, 'int', little)
    case 'fl32':
      return layout(4, 'float', little)
    case 'fl64':
      return layout(8, 'float', little)
    case 'raw ':
      return layout(1, 'uint', false)
    case 'lpcm':
      return layout(Math.max(1, bits >> 3), (flags ?? 0) & 1 ? 'float' : 'int', ((flags ?? 0) & 2) === 0)
    case 'ipcm':
    case 'fpcm': {
      const c = child(boxes, 'pcmC')?.data
      if (!c) return null
      c.skip(4)
      const isLittle = (c.u8() & 1) === 1
      return layout(Math.max(1, c.u8() >> 3), type === 'ipcm' ? 'int' : 'float', isLittle)
    }
    default:
      return null
  }
}

/** Throws where samples cannot be read, or stand further apart than they are large; 0 where that is not said. */
function needPacked({ bytesPerSample, kind, channels }: PcmLayout, apart: number, name: string): void {
  if (![1, 2, 3, 4, 8].includes(bytesPerSample) || (kind === 'float' && bytesPerSample < 4))
    fail('mp4.sound-entry', `PCM with ${bytesPerSample} bytes a sample is not known.`, name)
  if (apart !== 0 && apart !== bytesPerSample * channels)
    fail(
      'mp4.sound-entry',
      `Its samples of ${bytesPerSample} bytes in ${channels} channels stand ${apart} apart: that is not read here.`,
      name,
      'Ask for linear PCM without gaps between its samples.',
    )
}

/**
 * The sample rate of an entry, which has 16 bits for it: of what does not fit there is the rest, or nothing, beside the
 * track's time scale or a box of its own (ISO/IEC 14496-12 12.2.4).
 */
function wholeRate(said: number, timescale: number, boxes: readonly InnerBox[]): number {
  const srat = child(boxes, 'srat')?.data
  if (srat && srat.left >= 8) {
    srat.skip(4)
    return srat.u32()
  }
  return said === 0 || (timescale > 0xffff && said === timescale % 0x10000) ? timescale : said
}

/**
 * Reads an AudioSampleEntry: ISO, and QuickTime-style versions 0, 1 and 2. `timescale` is that of its track, units a
 * second.
 */
export function readAudioEntry(box: InnerBox, stsdVersion: number, timescale: number): AudioEntry {
  const r = new Reader(box.data.bytes, box.data.name, box.data.base)
  r.skip(8)
  const version = r.u16()
  r.skip(6)
  let channels = r.u16()
  let bits = r.u16()
  r.skip(4)
  let sampleRate = r.u32() / 65536
  let flags: number | null = null
  // bytes of a sample of all channels, where they are said
  let packet = 0
  if (version === 1 && stsdVersion === 0) r.skip(16)
  else if (version === 2) {
    r.skip(4)
    sampleRate = r.f64()
    channels = r.u32()
    r.skip(4)
    bits = r.u32()
    flags = r.u32()
    packet = r.u32()
    r.skip(4)
  }
  const boxes = innerBoxes(r)
  if (version !== 2) sampleRate = wholeRate(sampleRate, timescale, boxes)
  if (channels < 1 || channels > 1024 || !(sampleRate >= 1 && sampleRate <= 1_000_000)) {
    fail(
      'mp4.sound-entry',
      `The sound description at byte ${box.data.base} makes no sense: ${channels} channels at ${sampleRate} Hz.`,
      box.data.name,
      'The file is damaged; copy it again from where it came from.',
    )
  }
  const layout = channelLayout(child(boxes, 'chan')?.data, channels)
  const base = { codec: printable(box.type).trim(), channels, sampleRate, bitDepth: bits, layout, webCodec: null }
  if (box.type === 'enca')
    fail('mp4.encrypted', 'The sound is encrypted.', box.data.name, 'Ask for an unencrypted copy.')
  const pcm = pcmLayout(box.type, channels, bits, flags, boxes)
  if (pcm) {
    needPacked(pcm, box.type === 'lpcm' ? packet : 0, box.data.name)
    return {
      info: { ...base, codec: 'pcm', bitDepth: pcm.bytesPerSample * 8 },
      pcm,
      configuration: null,
      native: nativeOf(box),
    }
  }
  const codec = soundCodecCalled('mp4', box.type)
  const configuration = codec ? soundConfiguration(box.type, boxes) : null
  if (!codec || !configuration) return { info: base, pcm: null, configuration: null, native: nativeOf(box) }
  const said = codec.describe(configuration)
  return {
    info: {
      ...base,
      // decoders give their channels in an order of their own, whatever that of the coded ones is
      layout: asDecoded(layout),
      codec: codec.name,
      channels: said.channels ?? channels,
      sampleRate: said.sampleRate ?? sampleRate,
      bitDepth: said.bitDepth ?? bits,
      webCodec: said.webCodec ?? null,
    },
    pcm: null,
    configuration,
    native: nativeOf(box),
  }
}
