import { concatBytes, Writer } from '../../bytes'
import { formatTimecode, labelParts } from '../../time/timecode'
import type { UnitPlan } from '../container'
import { klv } from './klv'
import { bytesOf } from './labels'

// The system item in front of each frame of D-10 (SMPTE ST 385 table 1, ST 386 5).

const pack = '060e2b34020501010d01030104010100'
/** A set of metadata of the package; it is empty. */
const set = '060e2b34024301010d01030104010200'
/** There are a label, a timecode, pictures, and, in the other, sound. */
const [there, withSound] = [0b0101_1000, 0b0000_0100]
/** Twenty-five packages a second, one at a time. */
const packageRate = 2 << 1

/** Two digits in the halves of a byte. */
const digits = (n: number) => (Math.floor(n / 10) << 4) | (n % 10)

/** The system item of a frame: what is in its package, and its timecode (ST 331 8.2, ST 12-1). */
export function systemItem(plan: UnitPlan, wrapping: string, frame: number): Uint8Array {
  const { start, rate, sound } = plan
  const label = formatTimecode(start.frames + frame, { rate, dropFrame: start.dropFrame })
  const [h, m, s, f] = labelParts(label)
  const w = new Writer()
    .u8(there | (sound ? withSound : 0))
    .u8(packageRate)
    .u8(0)
  w.u16(0)
    .u16(frame & 0xffff)
    .raw(bytesOf(wrapping))
    .raw(new Uint8Array(17))
  w.u8(0x81).u8(digits(f)).u8(digits(s)).u8(digits(m)).u8(digits(h)).raw(new Uint8Array(12))
  return concatBytes([klv(pack, w.bytes()), klv(set, new Uint8Array(0))])
}
