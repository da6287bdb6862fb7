import { outletSchema } from '../../../engine/outlets'

export default route(async (engine, event) => {
  await engine.outlets.save(await body(event, outletSchema))
  return { done: true }
})
