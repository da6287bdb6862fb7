import { relinkSchema } from '../../../../contract/timelines'

/**
 * Looks for a timeline's media again: with files chosen for sources, with a folder to look into first, or as before.
 */
export default route(async (session, event) =>
  session.viewing.shown(await session.timelines.relink(param(event, 'id'), await body(event, relinkSchema))),
)
