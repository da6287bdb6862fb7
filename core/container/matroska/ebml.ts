import { ForwardReader } from '../../bytes'

/** Element numbers used here (RFC 8794 EBML, RFC 9559 Matroska). */
export const id = {
  ebml: 0x1a45dfa3,
  docType: 0x4282,
  segment: 0x18538067,
  info: 0x1549a966,
  scale: 0x2ad7b1,
  tracks: 0x1654ae6b,
  entry: 0xae,
  number: 0xd7,
  type: 0x83,
  codec: 0x86,
  codecPrivate: 0x63a2,
  codecDelay: 0x56aa,
  defaultDuration: 0x23e383,
  video: 0xe0,
  width: 0xb0,
  height: 0xba,
  displayWidth: 0x54b0,
  displayHeight: 0x54ba,
  cropBottom: 0x54aa,
  cropTop: 0x54bb,
  cropLeft: 0x54cc,
  cropRight: 0x54dd,
  stereo: 0x53b8,
  projection: 0x7670,
  projectionType: 0x7671,
  projectionRoll: 0x7675,
  enabled: 0xb9,
  interlaced: 0x9a,
  fieldOrder: 0x9d,
  alpha: 0x53c0,
  colour: 0x55b0,
  matrix: 0x55b1,
  range: 0x55b9,
  transfer: 0x55ba,
  primaries: 0x55bb,
  audio: 0xe1,
  rate: 0xb5,
  channels: 0x9f,
  bits: 0x6264,
  cluster: 0x1f43b675,
  time: 0xe7,
  simple: 0xa3,
  group: 0xa0,
  blockDuration: 0x9b,
  discard: 0x75a2,
  block: 0xa1,
  reference: 0xfb,
  chapters: 0x1043a770,
  edition: 0x45b9,
  atom: 0xb6,
  start: 0x91,
  display: 0x80,
  text: 0x85,
  encodings: 0x6d80,
  cues: 0x1c53bb6b,
} as const

/** Reads the elements of a file one after the other. */
export class Window extends ForwardReader {
  /** The head of the element at a place, or null when there is none. */
  async header(at: number): Promise<Element | null> {
    const bytes = await this.at(at, 16)
    const name = variable(bytes, 0, true)
    const size = name && variable(bytes, name.length, false)
    return name && size
      ? { id: name.value, body: at + name.length + size.length, size: size.value, unknown: size.unknown }
      : null
  }
}

/** A variable-length number: its value, its bytes; all ones means unknown (RFC 8794 4). */
export function variable(
  bytes: Uint8Array,
  at: number,
  keepMarker: boolean,
): { value: number; length: number; unknown: boolean } | null {
  const first = bytes[at]
  if (first === undefined || first === 0) return null
  const length = Math.clz32(first) - 23
  if (at + length > bytes.length) return null
  let value = keepMarker ? first : first & (0xff >> length)
  let ones = (first & (0xff >> length)) === 0xff >> length
  for (let i = 1; i < length; i++) {
    value = value * 256 + bytes[at + i]!
    if (bytes[at + i] !== 0xff) ones = false
  }
  return { value, length, unknown: ones }
}

export interface Element {
  readonly id: number
  readonly body: number
  readonly size: number
  readonly unknown: boolean
}

/** The elements inside bytes already read. */
export function* elements(bytes: Uint8Array): Generator<{ id: number; data: Uint8Array }> {
  for (let at = 0; at < bytes.length;) {
    const name = variable(bytes, at, true)
    const size = name && variable(bytes, at + name.length, false)
    if (!name || !size) return
    const body = at + name.length + size.length
    if (body + size.value > bytes.length) return
    yield { id: name.value, data: bytes.subarray(body, body + size.value) }
    at = body + size.value
  }
}
export const unsigned = (b: Uint8Array) => b.reduce((n, v) => n * 256 + v, 0)
/** A signed number of at most eight bytes (RFC 8794 7.1). */
export const signed = (b: Uint8Array) => unsigned(b) - (b[0]! & 0x80 ? 256 ** b.length : 0)
export const float = (b: Uint8Array) =>
  b.length === 4 || b.length === 8
    ? new DataView(b.buffer, b.byteOffset, b.length)[b.length === 4 ? 'getFloat32' : 'getFloat64'](0)
    : 0
export const words = (b: Uint8Array) => new TextDecoder().decode(b).replace(/\0[^]*$/, '')
/** The bytes of the first element of a kind inside others, or null. */
export function field(bytes: Uint8Array, which: number): Uint8Array | null {
  for (const e of elements(bytes)) if (e.id === which) return e.data
  return null
}

export const none = new Uint8Array(0)

/** An unsigned number of at most eight bytes, 0 when it is not there. */
export const numberIn = (bytes: Uint8Array, which: number) => unsigned((field(bytes, which) ?? none).subarray(0, 8))
