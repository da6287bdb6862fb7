import type { Clip } from '../model'

// How the name of a file answers to what a clip calls its source.

/** The last part of a path of any system. */
export const baseOf = (path: string) => path.split(/[\\/]/).at(-1)!
const stemOf = (name: string) => name.replace(/\.[A-Za-z0-9]{1,5}$/, '')
const lower = (s: string) => s.normalize('NFC').toLowerCase()

/** The key under which clips of the same source are taken together. */
export function sourceKey(c: Pick<Clip, 'name' | 'reel' | 'file'>): string {
  const reel = /^(AX|AUX|UNKNOWN)?$/i.test(c.reel) ? '' : c.reel
  return c.file ? `file ${c.file}` : reel ? `reel ${reel}` : `name ${c.name}`
}

/** A file name without the numbers of a run of stills or the channels of a set, as lists may write them too. */
const withoutCount = (name: string) =>
  name.replace(/[._ -]?(\[[^\]]*\]|\{[^}]*\}|#+|%0?\d*d|\d{3,9})(\.[a-z0-9]{1,5})$/i, '$2')

/**
 * How well a file's name answers a clip's names: 0 is best, up to 1 it is the very name; null is not at all.
 */
export function nameRank(c: Pick<Clip, 'name' | 'reel' | 'file'>, path: string): number | null {
  const many = /[[{]/.test(baseOf(path))
  const base = lower(many ? withoutCount(baseOf(path)) : baseOf(path))
  const stem = stemOf(base)
  const given = c.file ? lower(c.file.replaceAll('\\', '/')) : null
  const wanted = given && many ? withoutCount(given) : given
  if (wanted) {
    if (`/${many ? lower(withoutCount(path)) : lower(path)}`.endsWith(`/${wanted.replace(/^\/+/, '')}`)) return 0
    if (baseOf(wanted) === base) return 1
    if (stemOf(baseOf(wanted)) === stem) return 2
  }
  const reel = /^(ax|aux|unknown)?$/i.test(c.reel) ? '' : lower(c.reel)
  if (reel && (stem === reel || base === reel)) return 3
  const name = lower(c.name)
  if (name && !wanted && !reel && base === name) return 1
  if (name && (base === name || stem === stemOf(name))) return 4
  if (reel && reel.length >= 2 && stem.startsWith(reel) && /^[^a-z0-9]/.test(stem.slice(reel.length))) return 5
  if (reel && reel.length >= 3 && lower(path).split('/').slice(0, -1).includes(reel)) return 6
  return null
}

/** What a clip is looked for by, in words. */
export const wordsFor = (c: Clip) =>
  [
    c.file && `the file “${baseOf(c.file)}”`,
    c.reel && !/^(AX|AUX)$/i.test(c.reel) && `reel “${c.reel}”`,
    c.name && `the name “${c.name}”`,
  ]
    .filter(Boolean)
    .join(', ')
