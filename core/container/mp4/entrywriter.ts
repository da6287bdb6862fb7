import { Writer } from '../../bytes'
import { layoutOf } from '../../sound/layout'
import { channelFields } from './channels'
import { bt709 } from '../../media/colour'
import type { Colour } from '../../media/media'
import type { VideoEssence } from '../container'
import { nominalRate, type Rate } from '../../time/rate'
import { box, fullBox } from './boxwriter'

export type PictureEntry = Omit<VideoEssence, 'kind' | 'codec'>

function visual(
  type: string,
  e: PictureEntry,
  depth: number,
  name: string,
  ...boxes: readonly Uint8Array[]
): Uint8Array {
  const w = new Writer().zero(6).u16(1).zero(16).u16(e.width).u16(e.height).u32(0x480000).u32(0x480000).u32(0).u16(1)
  w.u8(name.length).text(name, 31).u16(depth).i16(-1)
  return box(type, w.bytes(), ...boxes)
}

function pasp(aspect: string): Uint8Array {
  const [h, v] = aspect.split(':').map(Number)
  return box('pasp', new Writer().u32(h!).u32(v!).bytes())
}

function colr(c: Colour, kind: 'nclc' | 'nclx'): Uint8Array {
  const w = new Writer().tag(kind).u16(c.primaries).u16(c.transfer).u16(c.matrix)
  if (kind === 'nclx') w.u8(c.fullRange ? 0x80 : 0)
  return box('colr', w.bytes())
}

const fieldOrders = {
  progressive: [1, 0],
  segmented: [1, 0],
  'interlaced-tff': [2, 1],
  'interlaced-bff': [2, 6],
  interlaced: [2, 0],
} as const

/**
 * A picture sample entry with its codec's configuration where it has one, and `colr`, `fiel` (MOV) and `pasp`
 * (ISO/IEC 14496-12 12.1, -15 5.4.2.1; QuickTime File Format).
 */
export function pictureEntry(type: string, e: PictureEntry, box_: string | null, brand: 'mov' | 'mp4'): Uint8Array {
  return visual(
    type,
    e,
    24,
    '',
    ...(box_ && e.configuration ? [box(box_, e.configuration)] : []),
    colr(e.colour ?? bt709, brand === 'mov' ? 'nclc' : 'nclx'),
    ...(brand === 'mov' ? [box('fiel', Uint8Array.from(fieldOrders[e.scan]))] : []),
    pasp(e.pixelAspect),
  )
}

/**
 * MOV sample entry for 24-bit big-endian PCM, with `chan`: QuickTime-style version 1, of rates that its 16 bits do not
 * hold version 2.
 */
export function pcm24Entry(channels: number, sampleRate: number, layout: string | null): Uint8Array {
  const chan = chanBox(channels, layout)
  if (sampleRate > 0xffff) return box('lpcm', description2(channels, sampleRate), chan)
  const w = new Writer()
    .zero(6)
    .u16(1)
    .u16(1)
    .zero(6)
    .u16(channels)
    .u16(16)
    .u16(0xfffe)
    .u16(0)
    .u32(sampleRate * 65536)
  w.u32(1)
    .u32(3)
    .u32(3 * channels)
    .u32(2)
  const wave = box(
    'wave',
    box('frma', new Writer().tag('in24').bytes()),
    box('enda', new Writer().u16(0).bytes()),
    new Writer().u32(8).u32(0).bytes(),
  )
  return box('in24', w.bytes(), wave, chan)
}

const chanBox = (channels: number, layout: string | null): Uint8Array =>
  fullBox('chan', 0, 0, channelFields(channels, layout ?? (channels < 3 ? layoutOf(channels) : null)))

/** A sound description of version 2: packed signed big-endian samples of 24 bits. */
const description2 = (channels: number, sampleRate: number): Uint8Array =>
  new Writer()
    .zero(6)
    .u16(1)
    .u16(2)
    .zero(6)
    .u16(3)
    .u16(16)
    .u16(0xfffe)
    .u16(0)
    .u32(65536)
    .u32(72)
    .f64(sampleRate)
    .u32(channels)
    .u32(0x7f000000)
    .u32(24)
    .u32(2 | 4 | 8)
    .u32(3 * channels)
    .u32(1)
    .bytes()

/**
 * MP4 sample entry for AAC with its decoder configuration (ISO/IEC 14496-14 5.6), which alone says a rate that 16 bits
 * do not hold.
 */
export function aacEntry(channels: number, sampleRate: number, configuration: Uint8Array, bitrate: number): Uint8Array {
  const w = new Writer()
    .zero(6)
    .u16(1)
    .zero(8)
    .u16(channels)
    .u16(16)
    .u32(0)
    .u32(sampleRate > 0xffff ? 0 : sampleRate * 65536)
  const specific = new Writer().u8(5).u8(configuration.length).raw(configuration).bytes()
  const decoder = new Writer().u8(0x40).u8(0x15).u24(0).u32(bitrate).u32(bitrate).raw(specific).bytes()
  const es = new Writer().u16(2).u8(0).u8(4).u8(decoder.length).raw(decoder).u8(6).u8(1).u8(2).bytes()
  return box('mp4a', w.bytes(), fullBox('esds', 0, 0, new Writer().u8(3).u8(es.length).raw(es).bytes()))
}

/** Timecode sample entry: flags 1 drop-frame, 2 wraps at 24 h; with the name of the recording it counts. */
export function tmcdEntry(rate: Rate, dropFrame: boolean, reel = ''): Uint8Array {
  const text = new TextEncoder().encode(reel)
  // the language of what is Unicode and of none in particular (ISO 639-2 “und”)
  const name = new Writer()
    .u16(text.length)
    .u16(text.length ? 0x55c4 : 0)
    .raw(text)
    .bytes()
  return box(
    'tmcd',
    new Writer()
      .zero(6)
      .u16(1)
      .u32(0)
      .u32((dropFrame ? 1 : 0) | 2)
      .u32(rate.num)
      .u32(rate.den)
      .u8(nominalRate(rate))
      .u8(0)
      .bytes(),
    box('name', name),
  )
}
