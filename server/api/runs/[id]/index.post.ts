import { z } from 'zod'

const schema = z.discriminatedUnion('action', [
  z.object({ action: z.enum(['resume', 'pause', 'stop', 'remove']) }),
  z.object({ action: z.literal('workers'), workers: z.number().int().min(1).max(64) }),
])

/** Pause, resume, stop, remove; how many workers. */
export default route(async (engine, event) => {
  const id = param(event, 'id')
  const c = await body(event, schema)
  switch (c.action) {
    case 'resume':
      await engine.runs.setState(id, 'running')
      break
    case 'pause':
      await engine.runs.setState(id, 'paused')
      break
    case 'stop':
      await engine.runs.setState(id, 'stopped')
      break
    case 'remove':
      await engine.runs.remove(id)
      break
    case 'workers':
      await engine.runs.setWorkers(id, c.workers)
      break
  }
  return { done: true }
})
