/** Has the media files at or below a place measured. */
export default route('POST received', async ({ received }, { body }) => {
  await received.measure(body)
  return { done: true }
})
