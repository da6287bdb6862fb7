import { concatBytes, Writer } from '../../bytes'
import { toDeltas } from '../../kernel/deltas'
import { systems } from '../../media/colour'
import { aspectValue } from '../../media/aspect'
import type { RgbSignal } from '../../picture/rgb'
import { nominalRate, type Rate } from '../../time/rate'
import { labelParts } from '../../time/timecode'
import type { StillTold, Zlib } from '../still'
import { toHalf } from '../../half'
import { blockLines, dropFlag, lightOf, magic } from './layout'

/** A packed timecode counts to 39 frames at most; of higher rates it would count pairs. */
export const hasTime = (rate: Rate): boolean => nominalRate(rate) <= 30

/** An attribute as it stands in a header. */
export function attributeOf(name: string, type: string, write: (value: Writer) => Writer): Uint8Array {
  const value = write(new Writer()).bytes()
  return new Writer().tag(`${name}\0${type}\0`).u32le(value.length).raw(value).bytes()
}

/** Writes text as an attribute's value. */
export const textOf = (text: string) => (value: Writer) => value.raw(new TextEncoder().encode(text))

function headerOf({ width, height }: RgbSignal, told: StillTold, compression: number): Uint8Array {
  const w = new Writer().u32le(magic).u32le(2)
  const attribute = (...a: Parameters<typeof attributeOf>) => w.raw(attributeOf(...a))
  const window = (v: Writer) =>
    v
      .u32le(0)
      .u32le(0)
      .u32le(width - 1)
      .u32le(height - 1)
  attribute('channels', 'chlist', (v) => {
    for (const name of ['B', 'G', 'R']) v.tag(`${name}\0`).u32le(1).u32le(0).u32le(1).u32le(1)
    return v.u8(0)
  })
  const xy = systems.find((c) => c.colour.primaries === told.colour.primaries)?.xy
  if (xy) attribute('chromaticities', 'chromaticities', (v) => xy.reduce((x, n) => x.f32le(n), v))
  const comments = `${told.show}. Light of a display by ITU-R BT.1886, white at 1.`
  attribute('comments', 'string', textOf(comments))
  attribute('compression', 'compression', (v) => v.u8(compression))
  attribute('dataWindow', 'box2i', window)
  attribute('displayWindow', 'box2i', window)
  attribute('framesPerSecond', 'rational', (v) => v.u32le(told.rate.num).u32le(told.rate.den))
  attribute('lineOrder', 'lineOrder', (v) => v.u8(0))
  attribute('pixelAspectRatio', 'float', (v) => v.f32le(aspectValue(told.pixelAspect)))
  if (told.reel) attribute('reelName', 'string', textOf(told.reel))
  attribute('screenWindowCenter', 'v2f', (v) => v.f32le(0).f32le(0))
  attribute('screenWindowWidth', 'float', (v) => v.f32le(1))
  if (hasTime(told.rate)) attribute('timeCode', 'timecode', (v) => v.u32le(packed(told.timecode)).u32le(0))
  return w.u8(0).bytes()
}

/** A label as SMPTE ST 12-1 packs it for television. */
export function packed(label: string): number {
  const word = labelParts(label).reduce((n, v) => n * 256 + (Math.floor(v / 10) << 4) + (v % 10), 0)
  return label.includes(';') ? word | dropFlag : word
}

/** Writes an OpenEXR file: half, the light of a display (ITU-R BT.1886), white at 1, nothing cut off. */
export async function writeExr(
  picture: RgbSignal,
  told: StillTold,
  compression: number,
  zlib: Zlib,
): Promise<Uint8Array> {
  const { height } = picture
  const header = headerOf(picture, told, compression)
  const lines = blockLines.get(compression)!
  const count = Math.ceil(height / lines)
  const blocks = await Promise.all(
    Array.from({ length: count }, async (_, b) => {
      const raw = linesOf(picture, b * lines, Math.min(lines, height - b * lines))
      const small = compression === 0 ? raw : await zlib.deflate(toDeltas(raw))
      const body = small.length < raw.length ? small : raw
      return new Writer()
        .u32le(b * lines)
        .u32le(body.length)
        .raw(body)
        .bytes()
    }),
  )
  const table = new Writer()
  let at = header.length + count * 8
  for (const block of blocks) {
    table.u64le(at)
    at += block.length
  }
  return concatBytes([header, table.bytes(), ...blocks])
}

/** Steps of a signal from 0 to 1 that light is known of beforehand: sixty-four to a code of ten bits. */
const fine = 65_536
const lights = Uint16Array.from({ length: fine + 1 }, (_, i) => toHalf(lightOf(i / fine)))

/** The half that the light of a signal is. */
function halfOf(signal: number): number {
  return signal >= 0 && signal <= 1 ? lights[(signal * fine + 0.5) | 0]! : toHalf(lightOf(signal))
}

/** Lines as they stand in a block: of each B, then G, then R. */
function linesOf({ width, rgb }: RgbSignal, from: number, count: number): Uint8Array {
  const raw = new Uint8Array(count * width * 6)
  const view = new DataView(raw.buffer)
  let at = 0
  for (let y = from; y < from + count; y++)
    for (const k of [2, 1, 0])
      for (let x = 0; x < width; x++, at += 2) view.setUint16(at, halfOf(rgb[(y * width + x) * 3 + k]!), true)
  return raw
}
