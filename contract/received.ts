import { filePathSchema } from '../core/media/filepath'
import type { Problem } from '../core/problem'
import type { Verdict } from '../core/spec/judge'

/** Has the media files of a folder measured. */
export const receivedSchema = filePathSchema

/** A file that came from elsewhere, held against a specification as far as it was measured. */
export interface ReceivedFile {
  /** Below its storage root. */
  readonly path: string
  readonly size: number
  /** `absent`: a list of checksums names it, and it is not there. */
  readonly state: 'unmeasured' | 'waiting' | 'judged' | 'unreadable' | 'absent'
  /** How much of it was measured, 0 … 1; null while nobody is at it. */
  readonly share: number | null
  readonly verdict: Verdict | null
  /** Why each rule that is not met is not. */
  readonly misses: readonly string[]
  readonly problem: Problem | null
}
