/** Takes a dropped file into the first storage root, no faster than the disk does. */
export default route('PUT upload', async (session, { event }) => {
  const name = String(getQuery(event).name ?? 'file')
  const length = getRequestHeader(event, 'content-length')
  return session.uploads.take(name, event.node.req, length === undefined ? null : Number(length))
})
