export default route('PUT outlets', async (session, { body }) => {
  await session.outlets.save(body)
  return { done: true }
})
