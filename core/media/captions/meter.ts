import type { Frames, Rate } from '../../time/rate'
import { pairsAt, rateCode, readCdp, type CaptionPair } from './cdp'
import { captionChannel } from './channel'
import { line21 } from './line21'

/** What may be wrong with the captions of a frame, in words. */
export const captionFaults = {
  missing: 'no packet',
  several: 'more than one packet',
  damaged: 'a packet that is damaged',
  sequence: 'a packet that does not follow from the one before',
  rate: 'a packet of another frame rate',
  count: 'a packet that holds more or fewer captions than its frame rate has',
  parity: 'line 21 with wrong parity',
  'broken-off': 'a caption packet that breaks off',
} as const

export type CaptionFault = keyof typeof captionFaults

/** What was found in the CEA-708 captions of a run of frames. */
export interface CaptionFacts {
  /** Frames that have a packet of them. */
  readonly frames: Frames
  /** Letters, but for spaces, by channel of line 21 (`CC1`) and service (`S1`), of those that say something. */
  readonly letters: Readonly<Record<string, number>>
  /** In how many frames something is wrong, and the first of these, as a frame of the file. */
  readonly faults: readonly { readonly fault: CaptionFault; readonly frames: Frames; readonly at: Frames }[]
}

/** Gathers what captions say, and what is wrong with them, frame after frame. */
function gathering() {
  const letters: Record<string, number> = {}
  const letter = (name: string) => (letters[name] = (letters[name] ?? 0) + 1)
  const fields = [line21(0, letter), line21(1, letter)] as const
  const channel = captionChannel(letter)
  const found = new Map<CaptionFault, { frames: Frames; at: Frames }>()
  let frames = 0
  return {
    /** Follows a pair; what is wrong with it. */
    pair({ type, bytes }: CaptionPair): CaptionFault | null {
      if (type < 2) return fields[type as 0 | 1].feed(bytes) ? null : 'parity'
      return channel.feed(bytes, type === 3) ? null : 'broken-off'
    },
    /** Ends a frame of the file. */
    frame(at: Frames, there: boolean, faults: readonly (CaptionFault | null)[]): void {
      if (there) frames++
      for (const fault of new Set(faults)) {
        if (!fault) continue
        const known = found.get(fault)
        if (known) known.frames++
        else found.set(fault, { frames: 1, at })
      }
    },
    result(): CaptionFacts | null {
      if (frames === 0) return null
      const faults = [...found].map(([fault, f]) => ({ fault, ...f }))
      return { frames, letters: { ...letters }, faults: faults.sort((a, b) => a.at - b.at) }
    },
  }
}

/** Takes what packets of captions say in, frame after frame; its result is null of frames that all have none. */
export function captionMeter(rate: Rate) {
  const all = gathering()
  let due: number | null = null
  const faultsIn = (words: Uint8Array): (CaptionFault | null)[] => {
    const cdp = readCdp(words)
    if (!cdp) {
      due = null
      return ['damaged']
    }
    const follows = due === null || cdp.sequence === due
    due = (cdp.sequence + 1) % 65536
    return [
      follows ? null : 'sequence',
      cdp.rate === rateCode(rate) ? null : 'rate',
      cdp.room === null || cdp.room === pairsAt(cdp.rate) ? null : 'count',
      ...cdp.pairs.map(all.pair),
    ]
  }
  return {
    feed(packets: readonly Uint8Array[], at: Frames): void {
      const number = packets.length === 1 ? null : packets.length ? 'several' : 'missing'
      all.frame(at, packets.length > 0, [...packets.flatMap(faultsIn), number])
    },
    result: () => all.result(),
  }
}

/** The same of captions that pictures have with them; null of one that has none. */
export function pictureCaptionMeter() {
  const all = gathering()
  return {
    feed: (pairs: readonly CaptionPair[] | null, at: Frames) =>
      all.frame(at, pairs !== null, pairs === null ? ['missing'] : pairs.map(all.pair)),
    result: () => all.result(),
  }
}
