import { checksumKinds, type ChecksumName } from './checksums'

/** One file of a list of checksums. */
export interface ListedSum {
  readonly kind: ChecksumName
  /** Hexadecimal digits in small letters. */
  readonly sum: string
  /** As the list has it, parted by `/`: of the folder that the list lies in, as a rule. */
  readonly path: string
}

/** What a list of checksums says. */
export interface SumList {
  readonly sums: readonly ListedSum[]
  /** Lines that say no sum that is known here, from 1. */
  readonly strange: readonly number[]
}

const names = checksumKinds.map((k) => k.name).join('|')
/** `SHA256SUMS`, `md5sum.txt`, `checksums.txt`, and the manifests of a bag (RFC 8493, 2.1.3). */
const listNames = new RegExp(
  `^(?:(?:${names})sums?(?:\\.txt)?|checksums?\\.txt|(?:tag)?manifest-(?:${names})\\.txt)$`,
  'i',
)

const kindByEnding = (name: string) => checksumKinds.find((k) => name.toLowerCase().endsWith(k.ending))
const kindByName = (name: string) =>
  kindByEnding(name) ?? checksumKinds.find((k) => new RegExp(`(?:^|-)${k.name}(?:sums?)?(?:\\.txt)?$`, 'i').test(name))

/** Whether a name is that of a list of checksums. */
export const isSumList = (name: string): boolean => kindByEnding(name) !== undefined || listNames.test(name)

/**
 * Reads a list of checksums: `sum  path` or `sum *path` a line, as the sum tools of POSIX systems write it; the tagged
 * form, `MD5 (path) = sum`; or a sum alone in a list that is called after its file. Lines of `#` or `;` are remarks.
 */
export function readSumList(text: string, name: string): SumList {
  const sums: ListedSum[] = []
  const strange: number[] = []
  const only = kindByName(name)
  const alone = kindByEnding(name) ? name.slice(0, -kindByEnding(name)!.ending.length) : null
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\n|\r/)
  for (const [i, line] of lines.entries()) {
    if (/^\s*(?:[#;].*)?$/.test(line)) continue
    const said = lineOf(line, alone)
    const kind = said && checksumKinds.find((k) => k.digits === said.sum.length)
    if (!kind || (only && kind !== only) || (said.tag !== null && said.tag !== kind.name)) strange.push(i + 1)
    else sums.push({ kind: kind.name, sum: said.sum.toLowerCase(), path: said.path })
  }
  return { sums, strange }
}

interface Line {
  readonly sum: string
  readonly path: string
  /** The kind that a tagged line names. */
  readonly tag: string | null
}

function lineOf(line: string, alone: string | null): Line | null {
  // a line that begins so has a name with such letters in it that had to be written otherwise
  const escaped = line.startsWith('\\')
  const rest = escaped ? line.slice(1) : line
  const pathOf = (said: string) => (escaped ? unescaped(said) : parted(said))
  const plain = /^([0-9a-f]{16,64})(?: [ *]|\s+)(\S.*)$/i.exec(rest)
  if (plain) return { sum: plain[1]!, path: pathOf(plain[2]!), tag: null }
  const tagged = /^([A-Z0-9-]{3,9}) ?\((.+)\) ?= ?([0-9a-f]{16,64})\s*$/i.exec(rest)
  if (tagged) return { sum: tagged[3]!, path: pathOf(tagged[2]!), tag: tagged[1]!.toLowerCase().replaceAll('-', '') }
  const bare = /^([0-9a-f]{16,64})\s*$/i.exec(rest)
  return bare && alone !== null ? { sum: bare[1]!, path: alone, tag: null } : null
}

const unescaped = (said: string) => said.replace(/\\([\\nr])/g, (_, c: string) => ({ n: '\n', r: '\r' })[c] ?? c)
const parted = (said: string) => (said.includes('/') ? said : said.replaceAll('\\', '/')).replace(/^(?:\.\/)+/, '')

/** A list of checksums that the sum tools of POSIX systems check. */
export function sumListText(sums: readonly { readonly path: string; readonly sum: string }[]): string {
  return sums.map(({ path, sum }) => `${sum}  ${path}\n`).join('')
}
