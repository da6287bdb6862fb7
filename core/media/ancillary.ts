import { plural } from '../text'
import type { Frames, Rate } from '../time/rate'
import { captionMeter, type CaptionFacts } from './captions/meter'
import type { DataInfo } from './media'
import type { Packet } from './packet'

// What ancillary packets carry (SMPTE ST 291-1), told by their identifiers.

/** Something that packets carry. */
interface Service {
  readonly name: string
  readonly label: string
  readonly did: number
  /** Its second identifiers: one, or from the first to the last. */
  readonly sdids: readonly [first: number, last: number]
}

/** What is told by name; a new one is its line here. */
const services: readonly Service[] = [
  // ST 334-1
  { name: 'captions-708', label: 'CEA-708 captions', did: 0x61, sdids: [0x01, 0x01] },
  { name: 'captions-608', label: 'CEA-608 captions', did: 0x61, sdids: [0x02, 0x02] },
  // RDD 8
  { name: 'subtitles-op47', label: 'OP-47 subtitles', did: 0x43, sdids: [0x02, 0x02] },
  { name: 'teletext-op47', label: 'OP-47 teletext packets', did: 0x43, sdids: [0x03, 0x03] },
  // ST 2016-3
  { name: 'active-format', label: 'active format', did: 0x41, sdids: [0x05, 0x05] },
  // ST 12-2
  { name: 'timecode', label: 'ancillary timecode', did: 0x60, sdids: [0x60, 0x60] },
  // ST 2010
  { name: 'splice-messages', label: 'splice messages', did: 0x41, sdids: [0x07, 0x07] },
  // ST 2020-1
  { name: 'sound-metadata', label: 'sound metadata', did: 0x45, sdids: [0x01, 0x09] },
]

const unknownName = 'other-packets'

/** What a packet carries, by name. */
export function serviceOf({ did, sdid }: Packet): string {
  const known = services.find((s) => s.did === did && s.sdids[0] <= sdid && sdid <= s.sdids[1])
  return known?.name ?? unknownName
}

/** Whether a packet is a timecode, which is that of its own file alone. */
export const isTimecode = (p: Packet): boolean => serviceOf(p) === 'timecode'

/** What is called by a name, in words. */
export function serviceLabel(name: string): string {
  return services.find((s) => s.name === name)?.label ?? (name === unknownName ? 'other packets' : name)
}

/** A run of frames of one active format description: its code, and whether the coded frame is 16:9 (ST 2016-1). */
export interface ActiveFormat {
  readonly code: number
  readonly wide: boolean
  readonly frames: Frames
}

/** What was found in the ancillary packets of a run of frames. */
export interface AncillaryFacts {
  readonly frames: Frames
  /** Frames in which each service was, by its name. */
  readonly services: Readonly<Record<string, Frames>>
  /** Active formats in the order they come; frames without one are left out. */
  readonly formats: readonly ActiveFormat[]
  /** What its CEA-708 captions say; null where it has none, absent where not every frame was looked at. */
  readonly captions?: CaptionFacts | null
}

/** The active format in the first word of a packet of ST 2016-3: `0 a3 a2 a1 a0 r 0 0`. */
function activeFormat({ words }: Packet): Omit<ActiveFormat, 'frames'> | null {
  const [word] = words
  return word === undefined ? null : { code: (word >> 3) & 15, wide: (word & 4) !== 0 }
}

/** Takes the packets of one frame after the other in; where these are all of a file, its rate is given. */
export function ancillaryMeter(rate?: Rate): {
  /** `at` is the frame of the file. */
  feed(packets: readonly Packet[], at: Frames): void
  result(): AncillaryFacts
} {
  let frames = 0
  const counts: Record<string, Frames> = {}
  const formats: { code: number; wide: boolean; frames: Frames }[] = []
  const captions = rate && captionMeter(rate)
  return {
    feed(packets, at) {
      frames++
      captions?.feed(
        packets.filter((p) => serviceOf(p) === 'captions-708').map((p) => p.words),
        at,
      )
      for (const name of new Set(packets.map(serviceOf))) counts[name] = (counts[name] ?? 0) + 1
      const first = packets.find((p) => serviceOf(p) === 'active-format')
      const format = first && activeFormat(first)
      if (!format) return
      const last = formats.at(-1)
      if (last?.code === format.code && last.wide === format.wide) last.frames++
      else formats.push({ ...format, frames: 1 })
    },
    result: () => ({
      ...{ frames, services: { ...counts }, formats: formats.map((f) => ({ ...f })) },
      ...(captions ? { captions: captions.result() } : {}),
    }),
  }
}

/** Active formats by their codes (ST 2016-1 table 1), in a coded frame of 4:3 and of 16:9. */
const formatWords: Readonly<Record<number, readonly [narrow: string, wide: string]>> = {
  2: ['16:9 at the top', 'the whole frame'],
  3: ['14:9 at the top', '14:9 in the middle'],
  4: ['wider than 16:9 in the middle', 'wider than 16:9 in the middle'],
  8: ['the whole frame', 'the whole frame'],
  9: ['the whole frame, 4:3', '4:3 in the middle'],
  10: ['16:9 in the middle', 'the whole frame, 16:9'],
  11: ['14:9 in the middle', '14:9 in the middle'],
  13: ['4:3, safe for 14:9', '4:3, safe for 14:9'],
  14: ['16:9, safe for 14:9', '16:9, safe for 14:9'],
  15: ['16:9, safe for 4:3', '16:9, safe for 4:3'],
}

/** An active format in words: its code, and what of the frame is picture. */
export function activeFormatText({ code, wide }: Omit<ActiveFormat, 'frames'>): string {
  const words = formatWords[code]?.[wide ? 1 : 0]
  return `${code}${words ? ` (${words})` : ''} in ${wide ? '16:9' : '4:3'}`
}

/** A track besides pictures and sound, in words. */
export function dataText({ label, carries }: DataInfo): string {
  return carries.length ? `${label} (${carries.map(serviceLabel).join(', ')})` : label
}

/** Services and in how many frames each was, in words. */
export function servicesText({ services: found, frames }: AncillaryFacts): string {
  const list = Object.entries(found).map(([name, n]) => {
    const often = n === frames ? 'every frame' : `${n} of ${plural(frames, 'frame')}`
    return `${serviceLabel(name)} in ${often}`
  })
  return list.length ? list.join(', ') : 'no packets'
}
