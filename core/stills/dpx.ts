import { bt709 } from '../media/colour'
import { aspectOf, aspectParts } from '../media/aspect'
import type { Colour } from '../media/media'
import type { RgbSignal } from '../picture/rgb'
import { fail } from '../problem'
import { framesToSeconds, nearestRate } from '../time/rate'
import { labelParts } from '../time/timecode'
import {
  quantised,
  statedBy,
  type Still,
  type StillFormat,
  type StillHead,
  type StillPlace,
  type StillTold,
} from './still'

const headSize = 2048
const largest = 1 << 14
/** What a field holds that says nothing (ST 268-1 5.2). */
const unsaid = 0xffffffff

/** Transfer and colorimetric codes (ST 268-1 tables 5A and 5B) of colours by their H.273 primaries. */
const systems: readonly { readonly code: number; readonly primaries: number; readonly colour: Colour }[] = [
  { code: 6, primaries: 1, colour: bt709 },
  { code: 7, primaries: 5, colour: { primaries: 5, transfer: 6, matrix: 6, fullRange: false } },
  { code: 8, primaries: 6, colour: { primaries: 6, transfer: 6, matrix: 6, fullRange: false } },
]

/** The descriptor of an element of alpha alone (ST 268-1 table 1). */
const alphaElement = 4

/** Transfer codes of values that are no video. */
const others = new Map([
  [1, 'printing densities'],
  [2, 'linear light'],
  [3, 'logarithmic'],
])

/** A fault of a file that cannot be read on. */
const damaged = (name: string, message: string): never =>
  fail('dpx.damaged', message, name, 'Copy the file again, or ask for it anew.')

interface DpxShape extends StillHead {
  readonly little: boolean
  /** Where the picture begins, and how many bytes each line has. */
  readonly offset: number
  readonly lineBytes: number
}

/** Reads the header of a DPX file (SMPTE ST 268-1): one element of R, G, B of 8, 10 (method A) or 16 bits. */
function readShape(bytes: Uint8Array, name: string): DpxShape {
  if (bytes.length < headSize) damaged(name, `The file has ${bytes.length} bytes, less than a DPX header.`)
  const magic = String.fromCharCode(...bytes.subarray(0, 4))
  if (magic !== 'SDPX' && magic !== 'XPDS') damaged(name, 'This is not a DPX file.')
  const little = magic === 'XPDS'
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const u32 = (at: number) => view.getUint32(at, little)
  const [width, height] = [u32(772), u32(776)]
  if (width < 1 || height < 1 || width > largest || height > largest)
    damaged(name, `A picture of ${width}×${height} makes no sense.`)
  const [descriptor, bitDepth] = [bytes[800]!, bytes[803]!]
  const [packing, encoding] = [view.getUint16(804, little), view.getUint16(806, little)]
  const known = bitDepth === 8 || bitDepth === 16 || (bitDepth === 10 && packing === 1)
  if (descriptor !== 50 || encoding !== 0 || !known)
    fail(
      'dpx.kind',
      `This kind of DPX is not read here (descriptor ${descriptor}, ${bitDepth} bit, packing ${packing}).`,
      name,
      'Ask for R, G, B with 8, 10 (method A) or 16 bits.',
    )
  // of each further element (ST 268-1 table 1) what it is of
  const elements = Math.min(8, view.getUint16(770, little))
  const further = Array.from({ length: Math.max(0, elements - 1) }, (_, i) => bytes[800 + 72 * (i + 1)]!)
  const padding = u32(812) < largest ? u32(812) : 0
  const offset = u32(808) < headSize - 1408 ? u32(4) : u32(808)
  // where pictures begin before them there are no headers of film and television
  const time = offset < headSize ? unsaid : u32(1920)
  const bcd = (n: number) => (n >> 4) * 10 + (n & 15)
  const [h, m, s, f] = [time >>> 24, (time >>> 16) & 255, (time >>> 8) & 255, time & 255].map(bcd)
  const rates = offset < headSize ? [] : [view.getFloat32(1940, little), view.getFloat32(1724, little)]
  const rate = rates.find((v) => v > 1 && v < 1000)
  const sides = [u32(1628), u32(1632)]
  // lines end with a word; some writers leave that out where there are 16 bits
  const packed = Math.ceil((width * 3 * bitDepth) / 8)
  const whole = bitDepth === 10 ? width * 4 : Math.ceil(packed / 4) * 4
  const unpadded = bitDepth === 16 && offset + packed * height === bytes.length
  return {
    ...{
      width,
      height,
      bitDepth,
      little,
      reel: '',
      dropFrame: false,
      interlaced: offset < headSize || bytes[1928]! > 1 ? null : bytes[1928] === 1,
    },
    pixelAspect: sides.every((v) => v > 0 && v < largest) ? aspectOf(sides[0]! / sides[1]!) : null,
    rate: rate ? nearestRate(rate) : null,
    timecode: time !== unsaid && m! < 60 && s! < 60 ? [h!, m!, s!, f!] : null,
    // many leave at nothing what they do not say, where the standard has ones
    ...(time === 0 ? { unsure: true as const } : {}),
    colour: systems.find((x) => x.code === bytes[801])?.colour ?? null,
    alpha: further.includes(alphaElement),
    notes: [
      ...(others.has(bytes[801]!)
        ? [`Its values are ${others.get(bytes[801]!)}; they are shown as if they were video.`]
        : []),
      ...(further.some((d) => d !== alphaElement)
        ? [`It has ${further.length + 1} image elements, of which the first is read.`]
        : []),
    ],
    offset,
    lineBytes: unpadded ? packed : whole + padding,
  }
}

/** Reads a DPX picture. */
export function readDpx(bytes: Uint8Array, name: string): Still {
  const { little, offset, lineBytes, ...head } = readShape(bytes, name)
  const { width, height, bitDepth } = head
  const end = offset + lineBytes * height
  if (end > bytes.length)
    damaged(name, `The picture should reach byte ${end}, but the file ends at byte ${bytes.length}.`)
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const rgb = new Float32Array(width * height * 3)
  let o = 0
  for (let y = 0; y < height; y++) {
    const line = offset + y * lineBytes
    if (bitDepth === 10) {
      for (let x = 0; x < width; x++) {
        const word = view.getUint32(line + x * 4, little)
        rgb[o++] = (word >>> 22) / 1023
        rgb[o++] = ((word >>> 12) & 1023) / 1023
        rgb[o++] = ((word >>> 2) & 1023) / 1023
      }
    } else if (bitDepth === 16)
      for (let i = 0; i < width * 3; i++) rgb[o++] = view.getUint16(line + i * 2, little) / 65535
    else for (let i = 0; i < width * 3; i++) rgb[o++] = bytes[line + i]! / 255
  }
  return { head, picture: { width, height, rgb } }
}

/** Writes a DPX file of version 2.0 (SMPTE ST 268-1), big-endian, every field that is not said set to ones. */
function writeDpx(picture: RgbSignal, told: StillTold, bitDepth: 10 | 16): Uint8Array {
  const { width, height } = picture
  const lineBytes = bitDepth === 10 ? width * 4 : Math.ceil((width * 6) / 4) * 4
  const out = new Uint8Array(headSize + lineBytes * height)
  const view = new DataView(out.buffer)
  writeHead(view, told, { width, height, bitDepth })
  const samples = quantised(picture, bitDepth)
  let i = 0
  for (let y = 0; y < height; y++) {
    const line = headSize + y * lineBytes
    if (bitDepth === 10)
      for (let x = 0; x < width; x++, i += 3)
        view.setUint32(line + x * 4, ((samples[i]! << 22) | (samples[i + 1]! << 12) | (samples[i + 2]! << 2)) >>> 0)
    else for (let x = 0; x < width * 3; x++) view.setUint16(line + x * 2, samples[i++]!)
  }
  return out
}

/** Puts text into a field of so many bytes, ended by nothing: letters without marks. */
function writeText(out: Uint8Array, at: number, size: number, value: string): void {
  out.fill(0, at, at + size)
  new TextEncoder().encodeInto(value.normalize('NFD').replace(/[^\x20-\x7e]/g, ''), out.subarray(at, at + size - 1))
}

/** What headers of film and television say of a still's place. */
function writePlace(view: DataView, place: StillPlace, little = false): void {
  const rate = 1 / framesToSeconds(1, place.rate)
  view.setUint32(1712, place.position, little)
  view.setUint32(1716, place.length, little)
  view.setFloat32(1724, rate, little)
  const time = labelParts(place.timecode)
  const bcd = (v: number) => (Math.floor(v / 10) << 4) | (v % 10)
  const word = time.every((v) => v < 100) ? time.reduce((n, v) => n * 256 + bcd(v), 0) : unsaid
  view.setUint32(1920, word, little)
  view.setFloat32(1940, rate, little)
}

/** A DPX file for another place: its name is changed, and what headers of film and television say of it, if any. */
function moved(bytes: Uint8Array, place: StillPlace): Uint8Array {
  const { little, offset } = readShape(bytes, place.name)
  const out = bytes.slice()
  writeText(out, 36, 100, place.name)
  if (offset >= headSize) writePlace(new DataView(out.buffer), place, little)
  return out
}

function writeHead(
  view: DataView,
  told: StillTold,
  { width, height, bitDepth }: Pick<StillHead, 'width' | 'height' | 'bitDepth'>,
): void {
  const out = new Uint8Array(view.buffer)
  out.fill(0xff, 0, headSize)
  const text = (at: number, size: number, value: string) => writeText(out, at, size, value)
  const words = (at: number, ...values: number[]) => values.forEach((v, k) => view.setUint32(at + 4 * k, v >>> 0))
  text(0, 5, 'SDPX')
  words(4, headSize)
  text(8, 8, 'V2.0')
  words(16, out.length, 1, 1664, 384, 0)
  text(36, 100, told.name)
  text(136, 24, told.date && `${told.date.replaceAll('-', ':')}:00:00:00`)
  text(160, 100, 'Velvet Crane')
  text(260, 200, told.show)
  text(460, 200, '')
  out.fill(0, 664, 768)
  view.setUint16(768, 0)
  view.setUint16(770, 1)
  words(772, width, height)
  writeElement(view, told.colour, bitDepth)
  out.fill(0, 852, 1408)
  words(1408, 0, 0)
  words(1424, width, height)
  text(1432, 100, '')
  text(1532, 24, '')
  text(1556, 64, '')
  view.setBigUint64(1620, 0n)
  words(1628, ...aspectParts(told.pixelAspect))
  out.fill(0, 1636, 1664)
  text(1664, 48, '')
  text(1732, 188, '')
  writePlace(view, told)
  out[1928] = told.interlaced ? 1 : 0
  out[1931] = 0
  out.fill(0, 1972, headSize)
}

/** The one element: R, G, B at full range, filled to words (method A) where it has 10 bits. */
function writeElement(view: DataView, colour: Colour, bitDepth: number): void {
  const code = systems.find((x) => x.primaries === colour.primaries)?.code ?? 0
  view.setUint32(780, 0)
  view.setUint32(784, 0)
  view.setUint32(792, 2 ** bitDepth - 1)
  view.setUint8(800, 50)
  view.setUint8(801, code)
  view.setUint8(802, code)
  view.setUint8(803, bitDepth)
  view.setUint16(804, bitDepth === 10 ? 1 : 0)
  view.setUint16(806, 0)
  view.setUint32(808, headSize)
  view.setUint32(812, 0)
  view.setUint32(816, 0)
  new Uint8Array(view.buffer).fill(0, 820, 852)
}

const writing = (bitDepth: 10 | 16) => ({
  name: `dpx-${bitDepth}`,
  label: `DPX, ${bitDepth} bit R′G′B′`,
  bitDepth,
  states: statedBy(systems),
  bytes: (width: number, height: number) => headSize + height * width * (bitDepth === 10 ? 4 : 6),
  bytesOff: 0,
  write: (picture: RgbSignal, told: StillTold) => Promise.resolve(writeDpx(picture, told, bitDepth)),
})

/** Digital picture exchange (SMPTE ST 268-1). */
export const dpx: StillFormat = {
  codec: 'dpx',
  label: 'DPX',
  extensions: ['.dpx'],
  tells: () => ['rate', 'timecode', 'shape', 'fields'],
  read: (bytes, name) => Promise.resolve().then(() => readDpx(bytes, name)),
  moved,
  writes: [writing(10), writing(16)],
}
