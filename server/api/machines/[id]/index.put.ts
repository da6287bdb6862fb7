/** A machine has found the storage roots it sees, and takes part from now on. */
export default route('PUT machines/:id', async (session, { body, params: { id } }) => {
  await session.machines.enter(id, body)
  return { done: true }
})
