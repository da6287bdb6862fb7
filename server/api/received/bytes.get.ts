import { brandOf } from '../../../core/container/registry'
import { fail } from '../../../core/problem'

/** A media file below a storage root, in ranges, for looking into it in the browser. */
export default route('GET received/bytes', ({ roots }, { event }) => {
  const { root = '', path = '' } = getQuery(event) as { root?: string; path?: string }
  if (!brandOf(path)) fail('file.not-media', 'This is no media file by its name.', path, 'Choose a media file.')
  return sendRange(event, roots.resolve(root, path))
})
