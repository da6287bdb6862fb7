import { Reader, type ByteSource } from '../../bytes'
import { fail } from '../../problem'

/** A box header (ISO/IEC 14496-12 4.2): absolute offset, total size, header length. */
export interface BoxHeader {
  readonly type: string
  readonly offset: number
  readonly size: number
  readonly header: number
  /** The size field promised more bytes than the file has. */
  readonly truncated: boolean
}

const maxTopLevelBoxes = 200_000

/** Reads the headers of the top-level boxes, skipping over their contents. */
export async function topLevelBoxes(source: ByteSource): Promise<BoxHeader[]> {
  const boxes: BoxHeader[] = []
  let at = 0
  while (at + 8 <= source.size) {
    const bytes = await source.read(at, 16)
    if (bytes.length < 8) break
    const r = new Reader(bytes, source.name, at)
    let size = r.u32()
    const type = r.tag()
    let header = 8
    if (size === 1) {
      if (bytes.length < 16) break
      size = r.u64()
      header = 16
    } else if (size === 0) size = source.size - at
    if (size < header)
      fail(
        'mp4.box-size',
        `The box “${printable(type)}” at byte ${at} claims to be ${size} bytes long, shorter than its own header.`,
        source.name,
        'The file is damaged; copy it again from where it came from.',
      )
    const truncated = at + size > source.size
    boxes.push({ type, offset: at, size: truncated ? source.size - at : size, header, truncated })
    if (boxes.length > maxTopLevelBoxes)
      fail(
        'mp4.too-many-boxes',
        `The file has more than ${maxTopLevelBoxes} boxes.`,
        source.name,
        'This does not look like a real recording; check where it came from.',
      )
    at += size
  }
  return boxes
}

/** A box inside bytes already in memory. */
export interface InnerBox {
  readonly type: string
  /** Payload, after the header. */
  readonly data: Reader
  /** Header and payload. */
  readonly whole: Uint8Array
}

/**
 * The child boxes of a payload. Trailing bytes too short for a header are ignored, as QuickTime-style files have them.
 */
export function innerBoxes(r: Reader): InnerBox[] {
  const out: InnerBox[] = []
  while (r.left >= 8) {
    const start = r.pos
    let size = r.u32()
    const type = r.tag()
    let header = 8
    if (size === 1 && r.left >= 8) {
      size = r.u64()
      header = 16
    } else if (size === 0) {
      if (type === '\0\0\0\0') break
      size = r.bytes.length - start
    }
    if (size < header || start + size > r.bytes.length) {
      fail(
        'mp4.box-size',
        `The box “${printable(type)}” at byte ${r.base + start} claims ${size} bytes, but only ` +
          `${r.bytes.length - start} are left in the box around it.`,
        r.name,
        'The file is damaged; copy it again from where it came from.',
      )
    }
    out.push({
      type,
      data: new Reader(r.bytes.subarray(start + header, start + size), r.name, r.base + start + header),
      whole: r.bytes.subarray(start, start + size),
    })
    r.pos = start + size
    if (out.length > 100_000) fail('mp4.too-many-boxes', 'A box holds more than 100 000 boxes.', r.name)
  }
  return out
}

export function child(boxes: readonly InnerBox[], type: string): InnerBox | undefined {
  return boxes.find((b) => b.type === type)
}

/** A four-character code made safe to print. */
export function printable(type: string): string {
  return type.replace(/[^\x20-\x7e]/g, '·')
}
