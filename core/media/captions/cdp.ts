import type { Rate } from '../../time/rate'

// Caption distribution packets (SMPTE ST 334-2): what a packet of CEA-708 captions is made of.

/** Two bytes of captions and what they are of (CTA-708 table 1). */
export interface CaptionPair {
  /** 0 and 1: the fields of line 21; 2: goes on with a packet of the channel for digital television, 3: begins one. */
  readonly type: 0 | 1 | 2 | 3
  readonly bytes: readonly [number, number]
}

/** A caption distribution packet. */
export interface Cdp {
  /** Code of the frame rate that it is of: see {@link rateCode}. */
  readonly rate: number
  readonly sequence: number
  /** Pairs that it has room for, filled or not; null where it has no captions. */
  readonly room: number | null
  /** Those that are filled. */
  readonly pairs: readonly CaptionPair[]
}

/** Frames a second by their codes, from 1 on (ST 334-2 table 3), and pairs that a frame of such a rate has. */
const rates = [
  { num: 24000, pairs: 25 },
  { num: 24, pairs: 25 },
  { num: 25, pairs: 24 },
  { num: 30000, pairs: 20 },
  { num: 30, pairs: 20 },
  { num: 50, pairs: 12 },
  { num: 60000, pairs: 10 },
  { num: 60, pairs: 10 },
] as const

/** The code of a rate; null of one that captions have none for. */
export function rateCode(rate: Rate): number | null {
  const at = rates.findIndex((r) => r.num === rate.num && rate.den === (r.num > 1000 ? 1001 : 1))
  return at < 0 ? null : at + 1
}

/** How many pairs a frame has at a rate by its code: 600 a second; null of a code that is none. */
export const pairsAt = (code: number): number | null => rates[code - 1]?.pairs ?? null

const sections = { timecode: 0x71, captions: 0x72, services: 0x73, end: 0x74 } as const

/** Reads a packet; null where it is not laid out as one, or its sum is not right. */
export function readCdp(words: Uint8Array): Cdp | null {
  if (words.length < 11 || words[0] !== 0x96 || words[1] !== 0x69 || words[2]! > words.length) return null
  const bytes = words.subarray(0, words[2])
  // all its bytes come to nought
  if (bytes.reduce((n, b) => n + b, 0) % 256 !== 0) return null
  const sequence = bytes[5]! * 256 + bytes[6]!
  let room: number | null = null
  const pairs: CaptionPair[] = []
  for (let at = 7; at < bytes.length;) {
    const id = bytes[at]
    if (id === sections.end) {
      const again = bytes[at + 1]! * 256 + bytes[at + 2]!
      return at + 4 === bytes.length && again === sequence ? { rate: bytes[3]! >> 4, sequence, room, pairs } : null
    }
    const count = bytes[at + 1]! & 31
    if (id === sections.captions) {
      room = count
      for (let i = 0; i < count; i++) {
        const [marks, a, b] = bytes.subarray(at + 2 + 3 * i) as unknown as [number, number, number]
        if (marks & 4) pairs.push({ type: (marks & 3) as CaptionPair['type'], bytes: [a, b] })
      }
      at += 2 + 3 * count
    } else if (id === sections.timecode) at += 5
    else if (id === sections.services) at += 2 + 7 * (count & 15)
    // sections of later editions say their length
    else if (id !== undefined && id > sections.end && id < 0xf0) at += 2 + bytes[at + 1]!
    else return null
  }
  return null
}
