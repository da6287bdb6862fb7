import { bringInSchema } from '../../../contract/timelines'

/** Brings in a media file, with its edit decision list when there is one. */
export default route(async (session, event) => {
  const { media, ...options } = await body(event, bringInSchema)
  return session.viewing.shown(await session.timelines.bringIn(media, options))
})
