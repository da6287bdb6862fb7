import type { FrameRange } from '../time/range'
import { sameLabel } from '../time/midnight'
import { dividedRate, nominalRate, type Frames, type Rate } from '../time/rate'
import { formatTimecode, parseTimecode, type TimeBase } from '../time/timecode'
import type { Packet } from './packet'

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
  /** Whether its labels stand in binary groups (SMPTE ST 12-1), which count to 39 at most. */
  readonly binary: boolean
  /** Whether it has no way to say that labels are dropped: they are where that fits better. */
  readonly dropUnsaid?: true
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

/** What a timecode is followed by. */
export interface TimecodeBase {
  /** How its labels count. */
  readonly labels: TimeBase
  /** Frames of the file that have one label: two above 30 a second, where binary groups count pairs (SMPTE ST 12-1). */
  readonly each: 1 | 2
  /** What the file itself counts for a frame, as labels count. */
  own(frame: Frames): Frames
}

/** How timecodes of a file are followed whose frames are of a rate and that counts by a base of its own. */
export function timecodeBase(rate: Rate, file: TimeBase & { readonly start: Frames }, binary: boolean): TimecodeBase {
  const each = binary && nominalRate(rate) > 30 ? 2 : 1
  const labels = { rate: dividedRate(rate, each), dropFrame: file.dropFrame }
  const start = (file.start * nominalRate(labels.rate)) / nominalRate(file.rate)
  return { labels, each, own: (frame) => Math.floor(start + frame / each) }
}

/** Follows one timecode. Which frames have a label together is told by whichever way fits better. */
export function timecodeMeter(where: string, { labels, each, own }: TimecodeBase) {
  let last: { readonly frame: Frames; readonly count: Frames | null } | null = null
  let frames = 0
  let other: string | null = null
  const ways = Array.from({ length: each }, (_, phase) => ({ phase, breaks: 0, at: null as Frames | null }))
  return {
    feed({ frame, label }: Labelled): void {
      const count = label === null ? null : parseTimecode(label, labels)
      if (frames === 0 && label !== null && (count === null || !sameLabel(count, own(frame), labels)))
        other = count === null ? label : formatTimecode(count, labels)
      frames++
      for (const way of ways) {
        const place = (n: Frames) => Math.floor((n + way.phase) / each)
        const due = last && last.count !== null ? last.count + place(frame) - place(last.frame) : count
        if (count !== null && due !== null && sameLabel(count, due, labels)) continue
        way.breaks++
        way.at ??= frame
      }
      last = { frame, count }
    },
    result(): TimecodeFacts {
      const { breaks, at } = ways.reduce((best, way) => (way.breaks < best.breaks ? way : best))
      return { where, frames, breaks, at, other }
    },
  }
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
