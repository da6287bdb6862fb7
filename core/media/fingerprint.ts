import { z } from 'zod'

/** What identifies media: a later file of the same name is noticed by any of these. */
export const fingerprintSchema = z.object({
  size: z.number(),
  modified: z.number(),
  /** xxHash64 of the index and of samples of the essence. */
  content: z.string(),
})
export type Fingerprint = z.infer<typeof fingerprintSchema>
