import { Reader } from '../../bytes'
import { fromDeltas } from '../../kernel/deltas'
import { aspectOf } from '../../media/aspect'
import { systems } from '../../media/colour'
import { fail } from '../../problem'
import { makeRate } from '../../time/rate'
import type { Still, StillHead, Zlib } from '../still'
import { halves } from '../../half'
import { blockLines, dropFlag, magic, signalFor } from './layout'

const largest = 1 << 14

const damaged = (name: string, message: string): never =>
  fail('exr.damaged', message, name, 'Copy the file again, or ask for it anew.')
const otherKind = (name: string, what: string): never =>
  fail(
    'exr.kind',
    `This kind of OpenEXR is not read here: ${what}.`,
    name,
    'Ask for scan lines of R, G, B, ZIP or none.',
  )

interface Channel {
  readonly name: string
  /** 1 is half, 2 is float. */
  readonly type: number
}

/** What a header says of how the picture is kept. */
interface Kept {
  readonly channels: readonly Channel[]
  readonly compression: number
  /** The number of the first line. */
  readonly top: number
}

/** A name, ended by nothing. */
export function nameIn(r: Reader): string {
  let out = ''
  for (let c = r.u8(); c !== 0; c = r.u8()) {
    if (out.length > 255) damaged(r.name, `The name at byte ${r.base + r.pos - out.length} does not end.`)
    out += String.fromCharCode(c)
  }
  return out
}

function readChannels(r: Reader): Channel[] {
  const out: Channel[] = []
  for (let name = nameIn(r); name; name = nameIn(r)) {
    const type = r.i32le()
    r.skip(4)
    if (r.i32le() !== 1 || r.i32le() !== 1) otherKind(r.name, `channel ${name} is subsampled`)
    if (type !== 1 && type !== 2) otherKind(r.name, `channel ${name} holds integers`)
    out.push({ name, type })
  }
  return out
}

/** A timecode as SMPTE ST 12-1 packs it for television; null where it is none. */
function packedTime(word: number): StillHead['timecode'] {
  const digits = (at: number, tens: number) => ((word >>> (at + 4)) & tens) * 10 + ((word >>> at) & 15)
  const time = [digits(24, 3), digits(16, 7), digits(8, 7), digits(0, 3)] as const
  return time[0] < 24 && time[1] < 60 && time[2] < 60 ? time : null
}

function attributesOf(r: Reader): Map<string, Reader> {
  const out = new Map<string, Reader>()
  for (let key = nameIn(r); key; key = nameIn(r)) {
    nameIn(r)
    out.set(key, r.sub(r.i32le()))
  }
  return out
}

/** Reads the header of a file of one part in scan lines; the reader stands at the table of blocks then. */
export function readHead(r: Reader): StillHead & Kept {
  const { name } = r
  if (r.u32le() !== magic) damaged(name, 'This is not an OpenEXR file.')
  const version = r.u32le()
  if ((version & 0xff) !== 2 || version & 0x1a00) otherKind(name, 'it has tiles, several parts or deep data')
  const found = attributesOf(r)
  const numbers = (key: string, n: number, read: (x: Reader) => number) => {
    const x = found.get(key)
    return x ? Array.from({ length: n }, () => read(x)) : null
  }
  const list = found.get('channels')
  const window = numbers('dataWindow', 4, (x) => x.i32le())
  if (!list || !window) return damaged(name, 'The header does not say what channels it has, or how large it is.')
  const channels = readChannels(list)
  const [compression] = numbers('compression', 1, (x) => x.u8()) ?? [-1]
  if (!blockLines.has(compression!)) otherKind(name, `its compression is number ${compression}`)
  const [width, height] = [window[2]! - window[0]! + 1, window[3]! - window[1]! + 1]
  if (!(width >= 1 && height >= 1 && width <= largest && height <= largest))
    damaged(name, `A picture of ${width}×${height} makes no sense.`)
  for (const wanted of ['R', 'G', 'B'])
    if (!channels.some((x) => x.name === wanted)) otherKind(name, `it has no channel ${wanted}`)
  const others = channels.flatMap((x) => (['R', 'G', 'B', 'A'].includes(x.name) ? [] : [x.name]))
  const xy = numbers('chromaticities', 8, (x) => x.f32le())
  const near = systems.find((c) => xy?.every((v, i) => Math.abs(v - c.xy[i]!) < 0.0005))
  const [wide] = numbers('pixelAspectRatio', 1, (x) => x.f32le()) ?? []
  const [num, den] = numbers('framesPerSecond', 2, (x) => x.i32le()) ?? [0, 0]
  const [time] = numbers('timeCode', 1, (x) => x.u32le()) ?? []
  return {
    ...{ width, height, channels, compression: compression!, top: window[1]! },
    rate: num! > 0 && den! > 0 ? makeRate(num!, den!) : null,
    timecode: time === undefined ? null : packedTime(time),
    reel: new TextDecoder().decode(found.get('reelName')?.bytes ?? new Uint8Array()).slice(0, 255),
    dropFrame: ((time ?? 0) & dropFlag) !== 0,
    pixelAspect: wide && wide > 0.01 && wide < 100 ? aspectOf(wide) : null,
    interlaced: null,
    bitDepth: channels.every((x) => x.type === 1) ? 16 : 32,
    colour: near?.colour ?? null,
    alpha: channels.some((x) => x.name === 'A'),
    notes: [
      ...(xy && !near
        ? ['Its primaries are none that are known here; it is shown as if they were those of BT.709.']
        : []),
      ...(others.length ? [`It has other channels, which are not read: ${others.join(', ')}.`] : []),
    ],
  }
}

let signals: Float32Array | undefined

/** Reads an OpenEXR picture as the signal that a display makes its light from. */
export async function readExr(bytes: Uint8Array, name: string, zlib: Zlib): Promise<Still> {
  const r = new Reader(bytes, name)
  const { channels, compression, top, ...head } = readHead(r)
  const { width, height } = head
  const lines = blockLines.get(compression)!
  const blocks = Array.from({ length: Math.ceil(height / lines) }, () => r.u64le())
  const rgb = new Float32Array(width * height * 3)
  const lineBytes = channels.reduce((n, x) => n + 2 * x.type * width, 0)
  const seen = new Set<number>()
  const found = blocks.map((offset) => {
    r.pos = Math.min(offset, bytes.length)
    const y = r.i32le() - top
    const packed = r.part(r.i32le())
    if (y < 0 || y >= height || y % lines !== 0 || seen.has(y))
      damaged(name, `The block at byte ${offset} is of lines that the picture does not have, or has already.`)
    seen.add(y)
    return { offset, y, packed, whole: lineBytes * Math.min(lines, height - y) }
  })
  const take = async ({ offset, y, packed, whole }: (typeof found)[number]) => {
    const stored = compression === 0 || packed.length === whole
    const raw = stored ? packed : await zlib.inflate(packed, whole)
    if (raw?.length !== whole) return damaged(name, `The block at byte ${offset} is damaged.`)
    takeLines(stored ? raw : fromDeltas(raw), channels, rgb.subarray(y * width * 3), width)
  }
  // a few at a time: whatever a header claims, no more than their bytes are held
  for (let i = 0; i < found.length; i += 8) await Promise.all(found.slice(i, i + 8).map(take))
  return { head, picture: { width, height, rgb } }
}

/** Takes whole lines, channel after channel in each, into R, G, B. */
function takeLines(plain: Uint8Array, channels: readonly Channel[], rgb: Float32Array, width: number): void {
  signals ??= halves.map(signalFor)
  const view = new DataView(plain.buffer, plain.byteOffset, plain.length)
  let at = 0
  for (let line = 0; at < plain.length; line++)
    for (const { name, type } of channels) {
      const k = ['R', 'G', 'B'].indexOf(name)
      if (k >= 0)
        for (let x = 0, to = line * width * 3 + k; x < width; x++, to += 3) {
          const v =
            type === 1 ? signals[view.getUint16(at + 2 * x, true)]! : signalFor(view.getFloat32(at + 4 * x, true))
          rgb[to] = Number.isFinite(v) ? v : 0
        }
      at += 2 * type * width
    }
}
