import { bytesText } from '../../core/text'

export { bytesText, listed, plural, spanText } from '../../core/text'

/** `05:40` of a moment, on this machine's clock. */
export function clockText(at: number | string | Date): string {
  return new Date(at).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
}

/** How many bytes a file will take; roughly, where how well it is coded decides. */
export const sizeText = ({ bytes, rough }: { readonly bytes: number; readonly rough: boolean }) =>
  `${rough ? '≈' : ''}${bytesText(bytes)}`
