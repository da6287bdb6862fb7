import { z } from 'zod'

/** A file or folder below a storage root: the root's name, and the path from there with `/` between its parts. */
export const filePathSchema = z.object({ root: z.string(), path: z.string().min(1).max(4096) })
export type FilePath = z.infer<typeof filePathSchema>
