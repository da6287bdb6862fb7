import { z } from 'zod'

const schema = z.object({ folder: z.object({ root: z.string(), path: z.string().max(4096) }).nullable() })

/** Watches a folder for new timelines, or none any more. */
export default route(async (engine, event) => engine.watcher.watch((await body(event, schema)).folder))
