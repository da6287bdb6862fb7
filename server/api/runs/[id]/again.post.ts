/** Starts everything of a run once more, from its frozen sheet. */
export default route('POST runs/:id/again', async (session, { params: { id } }) => ({
  id: await session.runs.repeat(id),
}))
