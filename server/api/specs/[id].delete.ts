/** Takes a spec of one's own off the shelf; not while an outlet asks for it. */
export default route('DELETE specs/:id', async (session, { params }) => {
  await session.outlets.removeSpec(params.id)
  return { done: true }
})
