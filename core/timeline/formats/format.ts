import type { Problem } from '../../problem'
import type { Rate } from '../../time/rate'
import type { Timeline } from '../model'

/** What an interchange file says, and what is odd about it. */
export interface ReadTimeline {
  readonly timeline: Timeline
  readonly problems: readonly Problem[]
  /** What it was read from, where the format has parts the model does not hold. */
  readonly original?: unknown
}

/** An interchange format of timelines. */
export interface TimelineFormat {
  /** `edl`: how it is called on the command line. */
  readonly name: string
  readonly label: string
  /** With the dot; the first is what is written. */
  readonly extensions: readonly string[]
  /** Whether its files hold events, or only chapters that go with a timeline. */
  readonly holds: 'timeline' | 'chapters'
  /** Whether its tracks are one event after the other, so that nothing lies over anything. */
  readonly sequential?: true
  /** Whether its files need not say their rate, so that it has to be asked for. */
  readonly asksRate?: true
  /** Whether a text is in this format, by what it says; `head` is its beginning without byte-order mark. */
  recognise(head: string, text: string): boolean
  /** `rate` is for formats that do not carry one; without it 25, or 30000/1001 when they say drop-frame. */
  read(text: string, fileName: string, rate: Rate | null): ReadTimeline
  /** Writes a timeline; `problems` say what the format cannot hold. */
  write(timeline: Timeline, original?: unknown): { text: string; problems: Problem[] }
}
