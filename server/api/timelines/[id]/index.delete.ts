export default route(async (engine, event) => {
  await engine.timelines.remove(param(event, 'id'))
  return { done: true }
})
