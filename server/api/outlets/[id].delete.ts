export default route('DELETE outlets/:id', async (session, { params }) => {
  await session.outlets.remove(params.id)
  return { done: true }
})
