// What can be the name of a file or a folder on any system.

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

const reserved = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i

/** The most bytes of UTF-8 that a part of a path may have here: file systems take 255. */
export const longestPart = 240

const encoder = new TextEncoder()

/** Why one part of a path cannot be used on every system, in words; null when it can. */
export function unusablePart(part: string): string | null {
  const odd = /[\\:*?"<>|]|\p{Cc}/u.exec(part)
  if (odd) return `“${odd[0]}” cannot be used in a file name`
  if (/[. ]$/.test(part)) return 'a part of it ends with a dot or a blank'
  if (reserved.test(part)) return `“${part}” is reserved by some systems`
  if (part.length * 3 > longestPart && encoder.encode(part).length > longestPart)
    return `a part of it is longer than ${longestPart} bytes`
  return null
}

/** What is the same for names that some system takes for one: whatever their case, and however letters are composed. */
export const spelled = (name: string): string => fileSafe(name).toLowerCase()
