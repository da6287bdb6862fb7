/**
 * The picture of a frame, `?w=` wide at most. `?as=waveform`: the waveform of its luma; `?as=difference`: how far it is
 * from frame `&from=`, or from the same frame of the delivered file `&file=`; figures stand in the header `x-figures`.
 */
export default route('GET timelines/:id/frames/:frame', async (session, { params, event }) => {
  const t = await session.timelines.get(params.id)
  const query = getQuery(event)
  const frame = Number(params.frame.replace(/\.jpg$/, ''))
  const kept = { 'cache-control': 'private, max-age=86400' }
  if (query.as) {
    const from = typeof query.file === 'string' ? query.file : Number(query.from)
    const { viewing } = session
    const { image, figures } = await (query.as === 'waveform'
      ? viewing.waveform(t, frame)
      : viewing.difference(t, frame, from))
    setResponseHeaders(event, { ...kept, 'content-type': 'image/png', 'x-figures': JSON.stringify(figures) })
    return image
  }
  const width = Math.max(32, Math.min(1920, Number(query.w ?? 480) || 480))
  const jpeg = await session.viewing.picture(t, frame, width)
  setResponseHeaders(event, { ...kept, 'content-type': 'image/jpeg' })
  return jpeg
})
