/** Takes a spec of one's own off the shelf; not while an outlet asks for it. */
export default route(async (session, event) => {
  await session.outlets.removeSpec(param(event, 'id'))
  return { done: true }
})
