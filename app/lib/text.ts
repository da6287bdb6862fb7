export { bytesText, listed, plural } from '../../core/text'

/** A span of seconds as people say it: `under 1 s`, `4 s`, `3 min 20 s`, `5 h 40 min`. */
export function spanText(seconds: number): string {
  if (seconds > 0 && seconds < 0.5) return 'under 1 s'
  const s = Math.max(0, Math.round(seconds))
  if (s < 60) return `${s} s`
  if (s < 3600) return `${Math.floor(s / 60)} min${s % 60 ? ` ${s % 60} s` : ''}`
  return `${Math.floor(s / 3600)} h ${Math.floor((s % 3600) / 60)} min`
}

/** `05:40` of a moment, on this machine's clock. */
export function clockText(at: number | string | Date): string {
  return new Date(at).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
}
