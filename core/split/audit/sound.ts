import { lastWhere } from '../../time/order'
import type { FrameRange } from '../../time/range'
import { nominalRate, type Frames } from '../../time/rate'
import type { Region } from '../region'
import { called, type AuditOptions, type Finding } from './finding'

/** Sound quieter than this has ended, LUFS over 400 ms; and how far it may fall across an edge and still go on. */
const [quietest, steadiest] = [-45, 12]

/**
 * Edges across which sound goes on into frames that no region takes: a word or a note is cut off there, or its
 * beginning is missing. Where another region takes over nothing is cut off. `open` are the stretches that no region
 * takes, in order.
 */
export function soundCuts(r: Region, open: readonly FrameRange[], length: Frames, options: AuditOptions): Finding[] {
  const { momentary, rate } = options
  if (!momentary) return []
  const second = nominalRate(rate)
  const reach = Math.round(second * 0.4)
  const tenth = (frame: Frames) => Math.floor((frame * 10 * rate.den) / rate.num)
  /** Loudness of the 400 ms that end at a frame; null where it is quiet or not known. */
  const upTo = (frame: Frames) => {
    const v = momentary[tenth(frame) - 1] ?? null
    return v !== null && v > quietest ? v : null
  }
  const isOpen = (x: FrameRange) => {
    const gap = open[lastWhere(open.length, (k) => open[k]!.in <= x.in)]
    return gap !== undefined && x.out <= gap.out
  }
  return (['in', 'out'] as const).flatMap((edge): Finding[] => {
    const at = r[edge]
    if (at < reach || at + reach > length) return []
    const range = edge === 'in' ? { in: at - reach, out: at } : { in: at, out: at + reach }
    if (!isOpen(range)) return []
    const [before, after] = [upTo(at), upTo(at + reach)]
    if (before === null || after === null || Math.abs(before - after) > steadiest) return []
    const text = `Sound goes on across the ${edge === 'in' ? 'beginning' : 'end'} of ${called(r)}`
    return [{ kind: 'sound-cut', severity: 'caution', regions: [r.id], range, text, fix: null }]
  })
}
