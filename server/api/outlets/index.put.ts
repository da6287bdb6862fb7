import { outletSchema } from '../../../engine/deliverables/outlets'

export default route(async (engine, event) => {
  await engine.outlets.save(await body(event, outletSchema))
  return { done: true }
})
