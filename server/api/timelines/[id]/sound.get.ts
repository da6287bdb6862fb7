/** Sound of frames `from` to `to` as a small WAV file, for listening. */
export default route('GET timelines/:id/sound', async (session, { params, event }) => {
  const q = getQuery(event)
  const bytes = await session.viewing.listen(await session.timelines.get(params.id), Number(q.from), Number(q.to))
  setResponseHeaders(event, { 'content-type': 'audio/wav', 'cache-control': 'private, max-age=3600' })
  return bytes
})
