import { readFile } from 'node:fs/promises'
import path from 'node:path'
import { fail } from '../../../../core/problem'

/** A first or last picture kept with a proof. */
export default route('GET handover/stills/:name', async (session, { params: { name }, event }) => {
  if (!/^proof-[\w-]+\.jpg$/.test(name)) fail('file.missing', 'There is no such picture.', name)
  setResponseHeaders(event, { 'content-type': 'image/jpeg', 'cache-control': 'private, max-age=86400' })
  return readFile(path.join(session.folders.cache, name))
})
