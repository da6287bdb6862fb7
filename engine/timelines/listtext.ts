import { readFile, stat } from 'node:fs/promises'
import type { FilePath } from '../../core/media/filepath'
import { fail, type Problem } from '../../core/problem'
import { decodeText } from '../../core/text'
import type { Roots } from '../storage/roots'

const largestList = 64 << 20

/** The text of a list, with a problem when it is not UTF-8. */
export async function readListText(roots: Roots, place: FilePath): Promise<{ text: string; problems: Problem[] }> {
  const file = roots.resolve(place.root, place.path)
  if ((await stat(file)).size > largestList)
    fail(
      'edl.too-large',
      'This is far larger than any edit decision list.',
      place.path,
      'Choose the list, not the media.',
    )
  const { text, legacy } = decodeText(await readFile(file))
  const said: Problem = {
    code: 'text.encoding',
    message: 'The text is not UTF-8; its names are read as Windows-1252.',
    where: place.path,
    fix: 'Check names with accents, or write the list again as UTF-8.',
  }
  return { text, problems: legacy ? [said] : [] }
}
