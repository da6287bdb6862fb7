/** Puts a look-up table on the shelf. */
export default route('POST tables', async (session, { body }) => session.outlets.saveTable(body.file, body.text))
