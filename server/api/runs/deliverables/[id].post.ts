/** Skips a deliverable of a run, or runs it again. */
export default route('POST runs/deliverables/:id', async (session, { body: { action }, params: { id } }) => {
  await (action === 'skip' ? session.runs.skip(id) : session.runs.again(id))
  return { done: true }
})
