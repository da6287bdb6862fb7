import { stepKind } from '../job/steps'
import type { Room } from '../measure/measure'
import type { Draft } from './draft'

/** How many files lie on their disk twice at the same time: one that is being proven, and one that is being joined. */
const atOnce = 2

/** Bytes that a file is, as forecast, and by how many that may be off: how well something is coded may double it. */
const bytesOf = ({ output: { bytes, bytesOff } }: Pick<Draft, 'output'>) => ({
  needed: bytes,
  rough: bytesOff ?? bytes,
})

/** Whether a file is joined of segments, which lie beside it until it is proven. */
const isJoined = ({ steps }: Pick<Draft, 'steps'>) => steps.some((s) => stepKind(s.kind).joined)

/** What files need of the disk that they all go to, and what is free there. */
export function roomFor(drafts: readonly Pick<Draft, 'output' | 'steps'>[], free: number): Room {
  let twice: Pick<Draft, 'output' | 'steps'>[] = []
  for (const d of drafts) {
    const isLarge = twice.length < atOnce || d.output.bytes > twice.at(-1)!.output.bytes
    if (!isLarge || !isJoined(d)) continue
    twice = [...twice, d].sort((a, b) => b.output.bytes - a.output.bytes).slice(0, atOnce)
  }
  let [needed, rough] = [0, 0]
  for (const list of [drafts, twice])
    for (const d of list) {
      const own = bytesOf(d)
      needed += own.needed
      rough += own.rough
    }
  return { free, needed, rough }
}

/** Whether there is room for all that is needed, as forecast, and even where that is as far off as it may be. */
export const enoughRoom = ({ free, needed, rough }: Room): boolean => free >= needed + rough
