/** Takes a look-up table off the shelf; not while a recipe goes by it. */
export default route('DELETE tables/:id', async (session, { params }) => {
  await session.outlets.removeTable(params.id)
  return { done: true }
})
