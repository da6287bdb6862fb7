export default route(async (session, event) => {
  await session.outlets.remove(param(event, 'id'))
  return { done: true }
})
