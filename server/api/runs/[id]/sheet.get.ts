import { readFile } from 'node:fs/promises'
import path from 'node:path'

/** The frozen run sheet. */
export default route(async (session, event) => {
  const view = await session.runs.view(param(event, 'id'))
  setResponseHeaders(event, {
    'content-type': 'application/json',
    'content-disposition': `attachment; filename="run-sheet-${view.id}.json"`,
  })
  return readFile(path.join(session.folders.runs, `${view.id}.json`), 'utf8')
})
