/** Brings in a media file, with its edit decision list when there is one. */
export default route('POST timelines', async (session, { body: { media, ...options } }) =>
  session.viewing.shown(await session.timelines.bringIn(media, options)),
)
