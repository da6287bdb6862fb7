import type { Reader } from '../../bytes'
import { child, innerBoxes, type InnerBox } from './boxes'
import { decoderSpecificInfo } from './esds'

/** The codec's own configuration out of the box that holds it in MP4 and MOV; null when it is missing or too short. */
export function soundConfiguration(entry: string, boxes: readonly InnerBox[]): Uint8Array | null {
  const wave = child(boxes, 'wave')
  const find = (type: string) => (child(boxes, type) ?? (wave && child(innerBoxes(wave.data), type)))?.data
  return readers[entry]?.(find) ?? null
}

const readers: Readonly<Record<string, (find: (type: string) => Reader | undefined) => Uint8Array | null>> = {
  mp4a(find) {
    const esds = find('esds')
    return esds ? decoderSpecificInfo(esds.bytes) : null
  },
  Opus(find) {
    const dOps = find('dOps')
    return dOps ? opusHead(dOps) : null
  },
  fLaC(find) {
    const d = find('dfLa')
    if (!d || d.left < 4 + 4 + 34) return null
    d.skip(4)
    const blocks = d.part(d.left)
    const config = new Uint8Array(4 + blocks.length)
    config.set(new TextEncoder().encode('fLaC'))
    config.set(blocks, 4)
    return config
  },
}

/** The identification header of Ogg (RFC 7845 5.1, little-endian), from what a `dOps` box says. */
function opusHead(d: Reader): Uint8Array {
  d.skip(1)
  const channels = d.u8()
  const preSkip = d.u16()
  const rate = d.u32()
  const gain = d.i16()
  const mapping = d.u8()
  const head = new Uint8Array(19 + (mapping ? d.left : 0))
  const view = new DataView(head.buffer)
  head.set(new TextEncoder().encode('OpusHead'))
  head[8] = 1
  head[9] = channels
  view.setUint16(10, preSkip, true)
  view.setUint32(12, rate, true)
  view.setInt16(16, gain, true)
  head[18] = mapping
  if (mapping) head.set(d.part(d.left), 19)
  return head
}
