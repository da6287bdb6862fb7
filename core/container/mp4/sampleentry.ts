import { Reader } from '../../bytes'
import { fail } from '../../problem'
import { makeRate, type Rate } from '../../time/rate'
import { decoderSpecificInfo, parseAudioSpecificConfig } from '../../codec/aac/describe'
import { parseAvcConfiguration, parseAvcSps } from '../../codec/h264/parameters'
import { parseHevcConfiguration } from '../../codec/hevc/parameters'
import type { AudioInfo, Chroma, Colour, PcmLayout, Scan, VideoInfo } from '../../media/media'
import { child, innerBoxes, printable, type InnerBox } from './boxes'
import { channelLayout } from './channels'

/** A picture sample entry, less what only the sample table knows. */
export interface VideoEntry {
  readonly info: Omit<VideoInfo, 'rate' | 'constantRate' | 'frames' | 'intra'>
  readonly configuration: Uint8Array | null
  readonly timing: Rate | null
  readonly whole: Uint8Array
}

export interface AudioEntry {
  readonly info: Omit<AudioInfo, 'samples'>
  readonly pcm: PcmLayout | null
  readonly configuration: Uint8Array | null
  readonly whole: Uint8Array
}

/** Uncompressed kinds by four-character code: chroma and depth. */
const uncompressed: Record<string, { codec: string; chroma: Chroma; bitDepth: number }> = {
  v210: { codec: 'v210', chroma: '4:2:2', bitDepth: 10 },
  '2vuy': { codec: 'uyvy', chroma: '4:2:2', bitDepth: 8 },
  UYVY: { codec: 'uyvy', chroma: '4:2:2', bitDepth: 8 },
}

function readColour(boxes: readonly InnerBox[]): Colour | null {
  const colr = child(boxes, 'colr')?.data
  if (!colr || colr.left < 10) return null
  const kind = colr.tag()
  if (kind !== 'nclc' && kind !== 'nclx') return null
  const colour = { primaries: colr.u16(), transfer: colr.u16(), matrix: colr.u16(), fullRange: false }
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

/** Reads a VisualSampleEntry (ISO/IEC 14496-12 12.1.3; -15 for AVC and HEVC). */
export function readVideoEntry(box: InnerBox): VideoEntry {
  const r = new Reader(box.data.bytes, box.data.name, box.data.base)
  r.skip(24)
  const width = r.u16()
  const height = r.u16()
  r.skip(50)
  const boxes = innerBoxes(r)
  const base = {
    codec: printable(box.type).trim(),
    profile: null,
    level: null,
    width,
    height,
    scan: readScan(boxes) ?? ('progressive' as Scan),
    chroma: '4:2:0' as Chroma,
    bitDepth: 8,
    pixelAspect: readAspect(boxes) ?? '1:1',
    colour: readColour(boxes),
    webCodec: null,
  }
  const plain = uncompressed[box.type]
  if (plain) return { info: { ...base, ...plain }, configuration: null, timing: null, whole: box.whole }
  if (box.type === 'avc1' || box.type === 'avc3') {
    const payload = child(boxes, 'avcC')?.data.bytes ?? null
    const sps = payload ? parseAvcConfiguration(payload).sps[0] : undefined
    const p = sps ? parseAvcSps(sps) : null
    if (p) {
      return {
        info: {
          ...base,
          codec: 'h264',
          profile: p.profile,
          level: p.level,
          width: p.width,
          height: p.height,
          chroma: p.chroma,
          bitDepth: p.bitDepth,
          webCodec: p.webCodec,
          scan: readScan(boxes) ?? (p.frameMbsOnly ? 'progressive' : 'interlaced'),
          pixelAspect: readAspect(boxes) ?? p.pixelAspect,
          colour: readColour(boxes) ?? p.colour,
        },
        configuration: payload,
        timing: p.timing ? makeRate(p.timing.num, p.timing.den) : null,
        whole: box.whole,
      }
    }
    return { info: { ...base, codec: 'h264' }, configuration: payload, timing: null, whole: box.whole }
  }
  if (box.type === 'hvc1' || box.type === 'hev1') {
    const payload = child(boxes, 'hvcC')?.data.bytes ?? null
    const p = payload ? parseHevcConfiguration(payload) : null
    return {
      info: {
        ...base,
        codec: 'hevc',
        ...(p
          ? {
              profile: p.profile,
              level: p.level,
              width: p.width,
              height: p.height,
              chroma: p.chroma,
              bitDepth: p.bitDepth,
              webCodec: p.webCodec,
            }
          : {}),
      },
      configuration: payload,
      timing: null,
      whole: box.whole,
    }
  }
  if (box.type === 'encv')
    fail('mp4.encrypted', 'The pictures are encrypted.', box.data.name, 'Ask for an unencrypted copy.')
  return { info: base, configuration: null, timing: null, whole: box.whole }
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

/** Reads an AudioSampleEntry: ISO, and QuickTime-style versions 0, 1 and 2. */
export function readAudioEntry(box: InnerBox, stsdVersion: number): AudioEntry {
  const r = new Reader(box.data.bytes, box.data.name, box.data.base)
  r.skip(8)
  const version = r.u16()
  r.skip(6)
  let channels = r.u16()
  let bits = r.u16()
  r.skip(4)
  let sampleRate = r.u32() / 65536
  let flags: number | null = null
  if (version === 1 && stsdVersion === 0) r.skip(16)
  else if (version === 2) {
    r.skip(4)
    sampleRate = r.f64()
    channels = r.u32()
    r.skip(4)
    bits = r.u32()
    flags = r.u32()
    r.skip(8)
  }
  if (channels < 1 || channels > 1024 || !(sampleRate >= 1 && sampleRate <= 1_000_000)) {
    fail(
      'mp4.sound-entry',
      `The sound description at byte ${box.data.base} makes no sense: ${channels} channels at ${sampleRate} Hz.`,
      box.data.name,
      'The file is damaged; copy it again from where it came from.',
    )
  }
  const boxes = innerBoxes(r)
  const layout = channelLayout(child(boxes, 'chan')?.data, channels)
  const base = { codec: printable(box.type).trim(), channels, sampleRate, bitDepth: bits, layout, webCodec: null }
  if (box.type === 'enca')
    fail('mp4.encrypted', 'The sound is encrypted.', box.data.name, 'Ask for an unencrypted copy.')
  const pcm = pcmLayout(box.type, channels, bits, flags, boxes)
  if (pcm) {
    if (![1, 2, 3, 4, 8].includes(pcm.bytesPerSample) || (pcm.kind === 'float' && pcm.bytesPerSample < 4))
      fail('mp4.sound-entry', `PCM with ${pcm.bytesPerSample} bytes a sample is not known.`, box.data.name)
    return {
      info: { ...base, codec: 'pcm', bitDepth: pcm.bytesPerSample * 8 },
      pcm,
      configuration: null,
      whole: box.whole,
    }
  }
  if (box.type === 'mp4a') {
    const wave = child(boxes, 'wave')
    const esds = child(boxes, 'esds') ?? (wave ? child(innerBoxes(wave.data), 'esds') : undefined)
    const config = esds ? decoderSpecificInfo(esds.data.bytes) : null
    const p = config ? parseAudioSpecificConfig(config) : null
    if (config && p)
      return {
        info: {
          ...base,
          codec: 'aac',
          channels: p.channels || channels,
          sampleRate: p.sampleRate,
          bitDepth: 16,
          webCodec: `mp4a.40.${p.objectType}`,
        },
        pcm: null,
        configuration: config,
        whole: box.whole,
      }
  }
  if (box.type === 'Opus') {
    const d = child(boxes, 'dOps')?.data
    if (d) {
      d.skip(1)
      const c = d.u8()
      const preSkip = d.u16()
      const rate = d.u32()
      const gain = d.i16()
      const mapping = d.u8()
      // WebCodecs wants the Ogg identification header (RFC 7845 5.1), which is little-endian.
      const head = new Uint8Array(19 + (mapping ? d.left : 0))
      const view = new DataView(head.buffer)
      head.set(new TextEncoder().encode('OpusHead'))
      head[8] = 1
      head[9] = c
      view.setUint16(10, preSkip, true)
      view.setUint32(12, rate, true)
      view.setInt16(16, gain, true)
      head[18] = mapping
      if (mapping) head.set(d.part(d.left), 19)
      return {
        info: { ...base, codec: 'opus', channels: c, sampleRate: 48000, bitDepth: 16, webCodec: 'opus' },
        pcm: null,
        configuration: head,
        whole: box.whole,
      }
    }
  }
  if (box.type === 'fLaC') {
    const d = child(boxes, 'dfLa')?.data
    if (d && d.left >= 4 + 4 + 34) {
      d.skip(4)
      const blocks = d.part(d.left)
      const info = new Reader(blocks.subarray(4), box.data.name)
      info.skip(10)
      const packed = info.u32()
      const depth = ((packed >>> 4) & 31) + 1
      const config = new Uint8Array(4 + blocks.length)
      config.set(new TextEncoder().encode('fLaC'))
      config.set(blocks, 4)
      return {
        info: {
          ...base,
          codec: 'flac',
          channels: ((packed >>> 9) & 7) + 1,
          sampleRate: packed >>> 12,
          bitDepth: depth,
          webCodec: 'flac',
        },
        pcm: null,
        configuration: config,
        whole: box.whole,
      }
    }
  }
  return { info: base, pcm: null, configuration: null, whole: box.whole }
}
