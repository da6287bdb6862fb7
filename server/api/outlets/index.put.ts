import { outletSchema } from '../../../core/deliverable/outlet'

export default route(async (session, event) => {
  await session.outlets.save(await body(event, outletSchema))
  return { done: true }
})
