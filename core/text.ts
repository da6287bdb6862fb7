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
