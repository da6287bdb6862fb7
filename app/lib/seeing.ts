import type { ShownTimeline } from '../../contract/timelines'
import { codecLabel, isKnownCodec } from '../../core/codec/registry'

/** Why the pictures of a file are not seen here; null where they are. Of a list its forecasts say it. */
export function unseenText({ assembled, info }: Pick<ShownTimeline, 'assembled' | 'info'>): string | null {
  const kind = assembled ? undefined : info.video.map((v) => v.codec).find((c) => !isKnownCodec(c))
  return kind === undefined
    ? null
    : `Pictures of kind “${codecLabel(kind)}” are not decoded here: they are split by timecode, and copied.`
}
