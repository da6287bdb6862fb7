/** Freezes cleared deliverables and starts the night. */
export default route('POST runs', async (session, { body: { name, workers, keys, anew } }) => {
  session.machines.askWorkers(workers)
  return { id: await session.nights.start(name, workers, keys, anew) }
})
