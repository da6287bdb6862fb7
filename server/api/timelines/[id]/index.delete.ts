export default route(async (session, event) => {
  await session.timelines.remove(param(event, 'id'))
  return { done: true }
})
