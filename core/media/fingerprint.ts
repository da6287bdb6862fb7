import { z } from 'zod'

/** What identifies media: a later file of the same name is noticed by any of these. */
export const fingerprintSchema = z.object({
  size: z.number(),
  modified: z.number(),
  /** xxHash64 of the index and of samples of the essence; absent where an earlier edition took it as `content`. */
  samples: z.string().optional(),
  /** Names what is in it: what was worked out of media is kept under this. Of its samples and its time of change. */
  content: z.string(),
})
export type Fingerprint = z.infer<typeof fingerprintSchema>

const samplesOf = (f: Fingerprint) => f.samples ?? f.content

/** Whether media are of one size and alike in all that was looked at; bytes between may differ. */
export const isAlike = (a: Fingerprint, b: Fingerprint): boolean => a.size === b.size && samplesOf(a) === samplesOf(b)
