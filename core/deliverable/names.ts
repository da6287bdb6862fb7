/** A piece of a name pattern: literal text, or a field with an optional prefix length. */
export type Piece =
  { readonly text: string } | { readonly field: string; readonly prefix: number | null; readonly known: boolean }

/** What can stand in a pattern, in the order it is offered, with the words that explain it. */
export const nameFields = {
  show: 'show',
  timeline: 'timeline',
  region: 'region',
  number: 'number of the region, from 01',
  outlet: 'outlet',
  size: 'raster, as 1920x1080',
  height: 'lines of the raster',
  rate: 'frame rate',
  codec: 'codec',
  channels: 'sound layout',
  timecode: 'timecode of the first frame',
  length: 'length in frames',
  date: 'date of the run',
  weekday: 'weekday of the run',
  version: 'version, from v01',
  production: 'production number',
  source: 'source file',
} as const

export type NameField = keyof typeof nameFields
export type NameValues = Readonly<Record<NameField, string>>

/**
 * Splits a pattern in the syntax of RFC 6570: `{field}` and the prefix form `{field:3}`. Unmatched braces stay text.
 */
export function parsePattern(pattern: string): Piece[] {
  const out: Piece[] = []
  let at = 0
  for (const m of pattern.matchAll(/\{([A-Za-z_][A-Za-z0-9_]*)(?::([1-9]\d{0,3}))?\}/g)) {
    if (m.index > at) out.push({ text: pattern.slice(at, m.index) })
    out.push({ field: m[1]!, prefix: m[2] ? Number(m[2]) : null, known: m[1]! in nameFields })
    at = m.index + m[0].length
  }
  if (at < pattern.length) out.push({ text: pattern.slice(at) })
  return out
}

/**
 * A value made fit for one part of a path on any system: no separators, no reserved characters, blanks as underscores.
 */
export function fileSafe(value: string): string {
  return value
    .normalize('NFC')
    .replace(/\p{Cc}/gu, '')
    .replace(/[/\\:*?"<>|]/g, '-')
    .trim()
    .replace(/\s+/g, '_')
    .replace(/\.+$/, '')
}

/**
 * The path a pattern gives, below the outlet's folder, without extension. Unknown fields stay as they are, to be seen.
 */
export function expandPattern(pattern: string, values: NameValues): string {
  return parsePattern(pattern)
    .map((p) => {
      if ('text' in p) return p.text
      if (!p.known) return `{${p.field}}`
      const value = [...fileSafe(values[p.field as NameField])]
      return (p.prefix === null ? value : value.slice(0, p.prefix)).join('')
    })
    .join('')
}

const reserved = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i

/** Why a relative path cannot be used as a file name, in words; null when it can. */
export function unusable(path: string): string | null {
  const parts = path.split('/')
  if (path.includes('{')) return 'it holds a field that is not known'
  if (path.startsWith('/') || /^[a-z]:/i.test(path)) return 'it begins at the root of a disk'
  for (const part of parts) {
    if (part === '' || /^\.[a-z0-9]+$/i.test(part)) return 'a part of it is empty'
    if (part === '.' || part === '..') return 'it leads out of its folder'
    const odd = /[\\:*?"<>|]|\p{Cc}/u.exec(part)
    if (odd) return `“${odd[0]}” cannot be used in a file name`
    if (/[. ]$/.test(part)) return 'a part of it ends with a dot or a blank'
    if (reserved.test(part)) return `“${part}” is reserved by some systems`
    if (new TextEncoder().encode(part).length > 240) return 'a part of it is longer than 240 bytes'
  }
  return null
}
