/** A machine leaves. */
export default route('DELETE machines/:id', async (session, { params: { id } }) => {
  await session.machines.leave(id)
  return { done: true }
})
