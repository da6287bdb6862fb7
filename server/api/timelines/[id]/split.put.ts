import { z } from 'zod'

const frames = z.number().int().min(0)
const schema = z.object({
  version: z.number().int(),
  split: z.object({
    regions: z
      .array(
        z
          .object({
            id: z.string().min(1),
            name: z.string().max(400),
            in: frames,
            out: frames,
            metadata: z.record(z.string(), z.string()),
          })
          .refine((r) => r.out > r.in, 'a region ends after it begins'),
      )
      .max(20_000),
    markers: z.array(z.object({ id: z.string().min(1), at: frames, name: z.string().max(400) })).max(20_000),
  }),
})

/** Keeps a timeline's split. */
export default route(async (engine, event) => {
  const { split, version } = await body(event, schema)
  return { version: await engine.timelines.saveSplit(param(event, 'id'), split, version) }
})
