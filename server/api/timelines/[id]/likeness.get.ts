/** Which pictures of a timeline are which of an older one, `?older=ID`. */
export default route('GET timelines/:id/likeness', async (session, { params, event }) => {
  const older = await session.timelines.get(String(getQuery(event).older ?? ''))
  return session.timelines.likeness(older, await session.timelines.get(params.id))
})
