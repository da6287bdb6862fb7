/** True peaks of the sound of frames `from` to `to`, channel by channel. */
export default route('GET timelines/:id/levels', async (session, { params, event }) => {
  const q = getQuery(event)
  const from = Number(q.from)
  setResponseHeader(event, 'cache-control', 'private, max-age=3600')
  return session.viewing.levels(await session.timelines.get(params.id), from, Number(q.to))
})
