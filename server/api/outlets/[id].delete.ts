export default route(async (engine, event) => {
  await engine.outlets.remove(param(event, 'id'))
  return { done: true }
})
