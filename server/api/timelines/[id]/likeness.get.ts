/** Which pictures of a timeline are which of an older one, `?older=ID`; with `&again=1` a failure is tried again. */
export default route('GET timelines/:id/likeness', async (session, { params, event }) => {
  const { older, again } = getQuery(event)
  const was = await session.timelines.get(String(older ?? ''))
  return session.timelines.likeness(was, await session.timelines.get(params.id), again === '1')
})
