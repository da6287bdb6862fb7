import { fail } from '../problem'
import { children, find, parseXml, valueOf } from '../xml'

/** Papers of regions as an XML file gives them: fields of all, and of those of a name. */
export interface PapersFile {
  readonly all: Readonly<Record<string, string>>
  readonly regions: readonly { readonly name: string; readonly fields: Readonly<Record<string, string>> }[]
}

const see = 'See docs/papers.md for what such a file holds.'

/** Reads papers of regions from XML (docs/papers.md); throws a problem that names the element that is wrong. */
export function readPapers(text: string, fileName: string): PapersFile {
  const root = find(parseXml(text, fileName), 'papers')
  if (!root) return fail('papers.other', 'This is no file of papers: its first element is not “papers”.', fileName, see)
  const regions = children(root)
    .filter((c) => c.name === 'region')
    .map(({ node }, i) => {
      const name = valueOf(node, 'name')
      if (!name) fail('papers.region', `Region ${i + 1} of the file has no name.`, fileName, see)
      return { name, fields: fieldsOf(node, `region “${name}”`, ['name', 'field'], fileName) }
    })
  const all = fieldsOf(root, 'papers', ['region', 'field'], fileName)
  const twice = regions.find((r, i) => regions.findIndex((x) => x.name === r.name) < i)
  if (twice) fail('papers.twice', `There are two regions called “${twice.name}” in the file.`, fileName, see)
  return { all, regions }
}

function fieldsOf(
  node: unknown[],
  of: string,
  known: readonly string[],
  fileName: string,
): Readonly<Record<string, string>> {
  const fields = new Map<string, string>()
  for (const c of children(node)) {
    if (!known.includes(c.name) && !c.name.startsWith('?'))
      fail('papers.element', `There is an element “${c.name}” in ${of}, which is not known.`, fileName, see)
    if (c.name !== 'field') continue
    const [name, value] = [valueOf(c.node, 'name'), find(c.node, 'value')]
    if (!name || !value) fail('papers.field', `A field of ${of} has no name or no value.`, fileName, see)
    if (fields.has(name)) fail('papers.twice', `${of} has the field “${name}” twice.`, fileName, see)
    fields.set(name, valueOf(c.node, 'value'))
  }
  return Object.fromEntries(fields)
}
