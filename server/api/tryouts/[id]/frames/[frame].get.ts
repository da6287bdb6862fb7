/** A picture of a stretch by its number, as PNG, nothing lost. */
export default route('GET tryouts/:id/frames/:frame', async ({ tryouts }, { params, event }) => {
  const { image } = await tryouts.picture(params.id, Number(params.frame.replace(/\.png$/, '')))
  setResponseHeaders(event, { 'content-type': 'image/png', 'cache-control': 'private, max-age=86400' })
  return image
})
