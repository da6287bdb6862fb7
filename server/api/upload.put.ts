/** Takes a dropped file into the first storage root, as it streams in. */
export default route(async (session, event) => {
  const name = String(getQuery(event).name ?? 'file')
  const stream = getRequestWebStream(event)
  return session.uploads.take(
    name,
    (stream ?? new ReadableStream({ start: (c) => c.close() })) as ReadableStream<Uint8Array>,
  )
})
