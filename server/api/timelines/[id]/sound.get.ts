/** Sound of frames `from` to `to` as a small WAV file, for listening; `heard` names channels, from 0. */
export default route('GET timelines/:id/sound', async (session, { params, event }) => {
  const q = getQuery(event)
  const heard = typeof q.heard === 'string' ? q.heard.split(',').map(Number) : undefined
  const t = await session.timelines.get(params.id)
  const bytes = await session.viewing.listen(t, Number(q.from), Number(q.to), heard)
  setResponseHeaders(event, { 'content-type': 'audio/wav', 'cache-control': 'private, max-age=3600' })
  return bytes
})
