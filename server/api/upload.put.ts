/** Takes a dropped file into the first storage root, as it streams in. */
export default route(async (engine, event) => {
  const name = String(getQuery(event).name ?? 'file')
  const stream = getRequestWebStream(event)
  return engine.takeUpload(
    name,
    (stream ?? new ReadableStream({ start: (c) => c.close() })) as ReadableStream<Uint8Array>,
  )
})
