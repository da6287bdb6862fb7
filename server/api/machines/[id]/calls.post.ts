/** A worker of a machine that takes part asks for something. */
export default route('POST machines/:id/calls', async (session, { body: { call, input }, params: { id } }) => ({
  value: (await session.machines.call(id, call, input)) ?? null,
}))
