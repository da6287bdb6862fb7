import type { FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import { formatTimecode, parseTimecode, type TimeBase } from '../time/timecode'
import type { Packet } from './media'

// Timecodes that a file has besides the one it counts from: repeated with its frames.

/** A label and the frame of the file that it is of. */
export interface Labelled {
  readonly frame: Frames
  /** `hh:mm:ss:ff`; null where there should be one and is none that can be read. */
  readonly label: string | null
}

/** A timecode that a file repeats with its frames, or with some of them. */
export interface FrameTimecode {
  /** As in “in its system items”. */
  readonly where: string
  /** The labels of frames of a range, in order. */
  walk(range: FrameRange): AsyncIterable<Labelled>
}

/** How a timecode goes through a file. */
export interface TimecodeFacts {
  readonly where: string
  /** Frames that have one. */
  readonly frames: Frames
  /** Frames at which it does not follow from the one before. */
  readonly breaks: number
  /** The first of these. */
  readonly at: Frames | null
  /** The label of its first frame where the file itself counts another for it; null where both are the same. */
  readonly other: string | null
}

/** Follows one timecode; `base` counts the file's own. */
export function timecodeMeter(where: string, base: TimeBase & { readonly start: Frames }) {
  let last: { readonly frame: Frames; readonly count: Frames | null } | null = null
  let [frames, breaks] = [0, 0]
  let at: Frames | null = null
  let other: string | null = null
  return {
    feed({ frame, label }: Labelled): void {
      const count = label === null ? null : parseTimecode(label, base)
      if (frames === 0 && label !== null && formatTimecode(base.start + frame, base) !== plain(label, base))
        other = plain(label, base)
      frames++
      const follows =
        count !== null && (last === null || last.count === null || count - last.count === frame - last.frame)
      if (!follows) {
        breaks++
        at ??= frame
      }
      last = { frame, count }
    },
    result: (): TimecodeFacts => ({ where, frames, breaks, at, other }),
  }
}

/** A label as labels of a base are written. */
const plain = (label: string, base: TimeBase) => {
  const count = parseTimecode(label, base)
  return count === null ? label : formatTimecode(count, base)
}

/** Which of the three timecodes of ST 12-2 a packet is, by its distributed bits, and how that is called. */
const kinds: Readonly<Record<number, string>> = {
  0: 'linear',
  1: 'vertical interval, first',
  2: 'vertical interval, second',
}

/**
 * An ancillary timecode (SMPTE ST 12-2 6): sixteen words with four bits of timecode each, units of frames first, and
 * a bit each of what kind it is.
 */
export function packetTimecode({ words }: Packet): { readonly kind: string; readonly label: string } | null {
  if (words.length < 16) return null
  const nibble = (n: number) => words[n]! >> 4
  let kind = 0
  for (let i = 0; i < 8; i++) kind |= ((words[i]! >> 3) & 1) << i
  const number = (units: number, tens: number, most: number) => nibble(units) + 10 * (nibble(tens) & most)
  const parts = [number(12, 14, 3), number(8, 10, 7), number(4, 6, 7), number(0, 2, 3)]
  return {
    kind: kinds[kind] ?? `kind ${kind}`,
    label: parts.map((n) => String(n).padStart(2, '0')).join(':'),
  }
}
