/** A size as people say it: `705 MB`, `4.2 GB`. Powers of a thousand. */
export function bytesText(n: number): string {
  const units = ['bytes', 'kB', 'MB', 'GB', 'TB']
  let v = n
  let i = 0
  while (Math.abs(v) >= 1000 && i < units.length - 1) {
    v /= 1000
    i++
  }
  return `${i === 0 ? v : v.toFixed(v < 10 ? 1 : 0)} ${units[i]}`
}

/** A count with its noun: `1 frame`, `12 frames`. */
export function plural(n: number, one: string, many = `${one}s`): string {
  return `${n} ${n === 1 ? one : many}`
}

/** Things one after the other: `MP4, MOV or WAV`. */
export function listed(names: readonly string[], last = 'and'): string {
  return names.length < 2 ? (names[0] ?? '') : `${names.slice(0, -1).join(', ')} ${last} ${names.at(-1)}`
}

/** Channels, from 0, as people count them: `channel 2`, `channels 1 and 2`. */
export function channelsText(channels: readonly number[]): string {
  return `${channels.length === 1 ? 'channel' : 'channels'} ${listed(channels.map((c) => String(c + 1)))}`
}

/** Text in the letters that can be drawn into pictures: accents are left off, other letters left out. */
export function plainText(text: string): string {
  return text.normalize('NFD').replace(/[^\x20-\x7e]/g, '')
}

/** The letters of a text that {@link plainText} leaves out. */
export function undrawable(text: string): string {
  return text.normalize('NFD').replace(/[\x20-\x7e\p{M}]/gu, '')
}

/** A piece of a template: literal text, or a field with the number of letters that are taken of it. */
export type TemplatePiece = { readonly text: string } | { readonly field: string; readonly prefix: number | null }

/**
 * Splits a template in the syntax of RFC 6570: `{field}` and the prefix form `{field:3}`. Unmatched braces stay text.
 */
export function templatePieces(template: string): TemplatePiece[] {
  const out: TemplatePiece[] = []
  let at = 0
  for (const m of template.matchAll(/\{([A-Za-z_][A-Za-z0-9_]*)(?::([1-9]\d{0,3}))?\}/g)) {
    if (m.index > at) out.push({ text: template.slice(at, m.index) })
    out.push({ field: m[1]!, prefix: m[2] ? Number(m[2]) : null })
    at = m.index + m[0].length
  }
  if (at < template.length) out.push({ text: template.slice(at) })
  return out
}

/** Windows-1252 from 0x80 to 0x9F, where Latin-1 has no letters; decoders of some runtimes take it for Latin-1. */
const windows1252 = '€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008DŽ\u008F\u0090‘’“”•–—˜™š›œ\u009DžŸ'

/**
 * Text of a file that does not say its encoding: UTF-8 (or UTF-16 with a byte-order mark), else Windows-1252, in which
 * every byte is a letter; `legacy` says that it was the latter.
 */
export function decodeText(bytes: Uint8Array): { text: string; legacy: boolean } {
  const [a, b] = bytes
  if ((a === 0xff && b === 0xfe) || (a === 0xfe && b === 0xff))
    return { text: new TextDecoder(a === 0xff ? 'utf-16le' : 'utf-16be').decode(bytes), legacy: false }
  try {
    return { text: new TextDecoder('utf-8', { fatal: true }).decode(bytes), legacy: false }
  } catch {
    const letters = Array.from(bytes, (b) => (b >= 0x80 && b < 0xa0 ? windows1252[b - 0x80]! : String.fromCharCode(b)))
    return { text: letters.join(''), legacy: true }
  }
}

/** A span of seconds as people say it: `under 1 s`, `4 s`, `3 min 20 s`, `5 h 40 min`. */
export function spanText(seconds: number): string {
  if (seconds > 0 && seconds < 0.5) return 'under 1 s'
  const s = Math.max(0, Math.round(seconds))
  if (s < 60) return `${s} s`
  if (s < 3600) return `${Math.floor(s / 60)} min${s % 60 ? ` ${s % 60} s` : ''}`
  return `${Math.floor(s / 3600)} h ${Math.floor((s % 3600) / 60)} min`
}
