/** Pause, resume, stop, remove; how many workers. */
export default route('POST runs/:id', async (session, { body, params: { id } }) => {
  switch (body.action) {
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
      session.machines.askWorkers(body.workers)
      await session.runs.setWorkers(id, body.workers)
      break
  }
  return { done: true }
})
