import { specSchema } from '../../core/spec/spec'

/** Puts a spec on the shelf. */
export default route(async (engine, event) => {
  await engine.outlets.saveSpec(await body(event, specSchema))
  return { done: true }
})
