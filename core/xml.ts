import { XMLParser, XMLValidator } from 'fast-xml-parser'
import { fail } from './problem'

type Node = Record<string, unknown>
const isNode = (v: unknown): v is Node => typeof v === 'object' && v !== null && !Array.isArray(v)
const all = (v: unknown): unknown[] => (v === undefined || v === null || v === '' ? [] : Array.isArray(v) ? v : [v])
const entities: Record<string, string> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" }

/** The text of an element; the five entities of XML and numeric ones are resolved here, no others. */
function text(v: unknown): string {
  const raw = isNode(v) ? v['#text'] : v
  return typeof raw === 'string'
    ? raw
        .trim()
        .replace(/&(?:#(\d{1,7})|#x([\da-f]{1,6})|(\w+));/gi, (whole, dec: string, hex: string, name: string) => {
          if (name) return entities[name] ?? whole
          const code = dec ? Number(dec) : parseInt(hex, 16)
          return code > 0 && code <= 0x10ffff ? String.fromCodePoint(code) : whole
        })
    : ''
}

/** An element: its name without a prefix, what is in it, its attributes. */
export interface Element {
  readonly name: string
  readonly node: unknown[]
  readonly attributes: Readonly<Record<string, string | undefined>>
}

/** Child elements in document order: the sequences of a segment have different names and their order counts. */
export function children(ordered: unknown): Element[] {
  return all(ordered).flatMap((o) =>
    isNode(o)
      ? Object.entries(o)
          .filter(([k]) => k !== ':@' && k !== '#text')
          .map(([name, node]) => ({ name, node: all(node), attributes: attributesOf(o[':@']) }))
      : [],
  )
}
const attributesOf = (v: unknown): Element['attributes'] =>
  isNode(v) ? Object.fromEntries(Object.entries(v).map(([k, a]) => [k, text(a)])) : {}

export const find = (node: unknown[], name: string): unknown[] | null =>
  children(node).find((c) => c.name === name)?.node ?? null
const textOf = (node: unknown[] | null): string => (node ? text(node.find((n) => isNode(n) && '#text' in n)) : '')
/** The text right within an element. */
export const textWithin = ({ node }: Element): string => textOf(node)
export const valueOf = (node: unknown[], name: string) => textOf(find(node, name))

const again = 'The file is damaged or was not written completely; write it again.'

/**
 * The elements of an XML file, in document order. No document type is accepted, so that nothing outside the file is
 * ever read.
 */
export function parseXml(source: string, fileName: string): unknown[] {
  if (/<!DOCTYPE|<!ENTITY/i.test(source))
    fail(
      'xml.doctype',
      'The file defines a document type or entities, which are not read here.',
      fileName,
      'Ask for the file without them.',
    )
  const wrong = XMLValidator.validate(source)
  if (wrong !== true)
    fail('xml.malformed', `This is not well-formed XML: ${wrong.err.msg}`, `${fileName}, line ${wrong.err.line}`, again)
  const parser = new XMLParser({
    preserveOrder: true,
    ignoreAttributes: false,
    attributeNamePrefix: '',
    parseAttributeValue: false,
    removeNSPrefix: true,
    parseTagValue: false,
    processEntities: false,
    trimValues: true,
  })
  try {
    return all(parser.parse(source))
  } catch (e) {
    return fail('xml.malformed', `This cannot be read as XML: ${(e as Error).message.slice(0, 120)}`, fileName, again)
  }
}
