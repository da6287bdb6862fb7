/** The picture of a frame, `?w=` wide at most. */
export default route('GET timelines/:id/frames/:frame', async (session, { params, event }) => {
  const t = await session.timelines.get(params.id)
  const width = Math.max(32, Math.min(1920, Number(getQuery(event).w ?? 480) || 480))
  const jpeg = await session.viewing.picture(t, Number(params.frame.replace(/\.jpg$/, '')), width)
  setResponseHeaders(event, { 'content-type': 'image/jpeg', 'cache-control': 'private, max-age=86400' })
  return jpeg
})
