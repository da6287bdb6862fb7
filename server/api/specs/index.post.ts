import { specSchema } from '../../../core/spec/spec'

/** Puts a spec on the shelf. */
export default route(async (session, event) => {
  await session.outlets.saveSpec(await body(event, specSchema))
  return { done: true }
})
