/**
 * Renames a timeline, gives it its cuts, its rate, its scan, how its sound tracks are read or the label of its first
 * frame, or moves its cuts.
 */
export default route('PATCH timelines/:id', async (session, { body, params: { id } }) => {
  const { name, cuts, rate, scan, soundTracks, start, cutsOffset } = body
  if (name) await session.timelines.rename(id, name)
  if (cuts) await session.timelines.attachCuts(id, cuts)
  if (rate) await session.timelines.setRate(id, rate)
  if (scan !== undefined) await session.timelines.setScan(id, scan)
  if (soundTracks) await session.timelines.setSoundTracks(id, soundTracks)
  if (start) await session.timelines.setStart(id, start)
  if (cutsOffset !== undefined) await session.timelines.setCutsOffset(id, cutsOffset)
  return session.viewing.shown(await session.timelines.get(id))
})
