/** The folder in which whatever comes is measured. */
export default route('GET received/watch', async ({ received }) => ({ folder: await received.watched() }))
