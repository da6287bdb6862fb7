import type { MediaInfo } from '../media/media'
import type { Output } from '../recipe/output'

/** How fast steps of a kind have gone on this installation: frames a second by {@link paceOf}. */
export type Paces = ReadonlyMap<string, number>

/** What the pace of a step depends on, as a key: what is done, what is read and what is written. */
export function paceOf(kind: string, source: MediaInfo, output: Output): string {
  const [v] = source.video
  const from = v ? `${v.codec} ${v.width}×${v.height}` : (source.audio[0]?.codec ?? 'nothing')
  const to = output.video
    ? `${output.video.codec} ${output.video.width}×${output.video.height}`
    : (output.audio?.codec ?? 'nothing')
  const each = output.perFrame ? `, ${output.perFrame} in each` : ''
  return `${kind}: ${from} → ${to}${each}`
}
