/** Puts a spec on the shelf. */
export default route('POST specs', async (session, { body }) => {
  await session.outlets.saveSpec(body)
  return { done: true }
})
