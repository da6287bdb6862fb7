/** Freezes cleared deliverables and starts the night. */
export default route('POST runs', async (session, { body: { name, workers, keys } }) => ({
  id: await session.nights.start(name, workers, keys),
}))
