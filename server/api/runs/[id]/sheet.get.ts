import { readFile } from 'node:fs/promises'
import path from 'node:path'

/** The frozen run sheet. */
export default route('GET runs/:id/sheet', async (session, { params, event }) => {
  const view = await session.progress.view(params.id)
  setResponseHeaders(event, {
    'content-type': 'application/json',
    'content-disposition': `attachment; filename="run-sheet-${view.id}.json"`,
  })
  return readFile(path.join(session.folders.runs, `${view.id}.json`), 'utf8')
})
