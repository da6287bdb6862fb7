import { runChangeSchema } from '../../../../contract/runs'

/** Pause, resume, stop, remove; how many workers. */
export default route(async (session, event) => {
  const id = param(event, 'id')
  const c = await body(event, runChangeSchema)
  switch (c.action) {
    case 'resume':
      await session.runs.setState(id, 'running')
      break
    case 'pause':
      await session.runs.setState(id, 'paused')
      break
    case 'stop':
      await session.runs.setState(id, 'stopped')
      break
    case 'remove':
      await session.runs.remove(id)
      break
    case 'workers':
      await session.runs.setWorkers(id, c.workers)
      break
  }
  return { done: true }
})
