/** Gives up a stretch that is not made yet. */
export default route('DELETE tryouts/:id', async ({ tryouts }, { params }) => {
  await tryouts.stop(params.id)
  return { done: true }
})
