/** Measures what is in a folder and what comes into it, or in none any more. */
export default route('PUT received/watch', async ({ received }, { body }) => {
  await received.watch(body.folder)
  return { folder: await received.watched() }
})
