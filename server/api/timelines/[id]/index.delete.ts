export default route('DELETE timelines/:id', async (session, { params }) => {
  await session.timelines.remove(params.id)
  return { done: true }
})
