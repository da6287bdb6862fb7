import { fail } from '../../problem'
import { nearestRate, type Rate } from '../../time/rate'

/** One picture of a DPX file: R, G, B one after the other, 0 … 65535. */
export interface DpxPicture {
  readonly width: number
  readonly height: number
  readonly bitDepth: number
  readonly rgb: Uint16Array
  /** As the television or film header says; null where it does not. */
  readonly rate: Rate | null
  /** Hours, minutes, seconds, frames of the television header; null where there are none. */
  readonly timecode: readonly [number, number, number, number] | null
}

const headSize = 2048
const largest = 1 << 14

/**
 * Reads a DPX picture (SMPTE ST 268-1): one element of R, G, B with 8, 10 (filled to 32 bits, method A) or 16 bits.
 * `headOnly` leaves the picture out.
 */
export function readDpx(bytes: Uint8Array, name: string, headOnly = false): DpxPicture {
  const damaged = (message: string) => fail('dpx.damaged', message, name, 'Copy the file again, or ask for it anew.')
  if (bytes.length < headSize) damaged(`The file has ${bytes.length} bytes, less than a DPX header.`)
  const magic = String.fromCharCode(...bytes.subarray(0, 4))
  if (magic !== 'SDPX' && magic !== 'XPDS') damaged('This is not a DPX file.')
  const little = magic === 'XPDS'
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
  const u32 = (at: number) => view.getUint32(at, little)
  const [width, height] = [u32(772), u32(776)]
  if (width < 1 || height < 1 || width > largest || height > largest)
    damaged(`A picture of ${width}×${height} makes no sense.`)
  const [descriptor, bitDepth] = [bytes[800]!, bytes[803]!]
  const [packing, encoding] = [view.getUint16(804, little), view.getUint16(806, little)]
  const offset = u32(808) < headSize - 1408 ? u32(4) : u32(808)
  const perLine = bitDepth === 10 ? width : Math.ceil((width * 3 * bitDepth) / 32)
  if (descriptor !== 50 || encoding !== 0 || !(bitDepth === 8 || bitDepth === 16 || (bitDepth === 10 && packing === 1)))
    fail(
      'dpx.kind',
      `This kind of DPX is not read here (descriptor ${descriptor}, ${bitDepth} bit, packing ${packing}).`,
      name,
      'Ask for R, G, B with 8, 10 (method A) or 16 bits.',
    )
  const time = u32(1920)
  const bcd = (n: number) => (n >> 4) * 10 + (n & 15)
  const parts = [time >>> 24, (time >>> 16) & 255, (time >>> 8) & 255, time & 255].map(bcd) as [
    number,
    number,
    number,
    number,
  ]
  const rateValue = [view.getFloat32(1940, little), view.getFloat32(1724, little)].find((v) => v > 1 && v < 1000)
  const shared = {
    width,
    height,
    bitDepth,
    rate: rateValue ? nearestRate(rateValue) : null,
    timecode: time !== 0xffffffff && time !== 0 && parts[1] < 60 && parts[2] < 60 ? parts : null,
  }
  if (headOnly) return { ...shared, rgb: new Uint16Array(0) }
  if (offset + perLine * 4 * height > bytes.length)
    damaged(
      `The picture should reach byte ${offset + perLine * 4 * height}, but the file ends at byte ${bytes.length}.`,
    )
  const rgb = new Uint16Array(width * height * 3)
  for (let y = 0; y < height; y++) {
    const line = offset + y * perLine * 4
    const to = y * width * 3
    if (bitDepth === 10) {
      for (let x = 0; x < width; x++) {
        const word = view.getUint32(line + x * 4, little)
        // ten bits spread over sixteen: the top bits fill the bottom
        for (const [c, shift] of [
          [0, 22],
          [1, 12],
          [2, 2],
        ] as const) {
          const v = (word >>> shift) & 1023
          rgb[to + x * 3 + c] = (v << 6) | (v >> 4)
        }
      }
    } else if (bitDepth === 16) for (let i = 0; i < width * 3; i++) rgb[to + i] = view.getUint16(line + i * 2, little)
    else for (let i = 0; i < width * 3; i++) rgb[to + i] = bytes[line + i]! * 257
  }
  return { ...shared, rgb }
}
