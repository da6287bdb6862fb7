import type { Problem } from '../../problem'
import { overlaps, type FrameRange } from '../../time/range'
import { formatTimecode } from '../../time/timecode'
import { isCaution, troublesIn, type Source } from '../link/source'
import type { Timeline, TimelineEvent } from '../model'
import { usedIn } from './pictures'

/**
 * What is not as it should be within a range for a file of its pictures, its sound or both: links in trouble, and
 * wipes, which are made as dissolves.
 */
export function assemblyProblems(
  t: Timeline,
  sources: readonly Source[],
  range: FrameRange,
  kinds: readonly TimelineEvent['kind'][],
): Problem[] {
  const used = usedIn(t, range)
  const shows = (event: number) => kinds.includes(t.events[event]!.kind)
  const out = sources
    .flatMap(troublesIn)
    // a file that is another one now is opened all the same
    .filter((x) => !isCaution(x.state) && x.events.some((i) => used.has(i) && (x.state === 'replaced' || shows(i))))
    .map((x) => x.problem)
  const wipes = kinds.includes('video') ? t.events.filter((e) => e.transition?.kind === 'wipe') : []
  const wipe = wipes.find((e) => overlaps(e.record, range))
  if (wipe)
    out.push({
      code: 'assembly.wipe',
      message: 'Wipes are made as dissolves of the same length.',
      where: formatTimecode(t.start + wipe.record.in, t),
      fix: 'Deliver that stretch as a file of its own where the wipe matters.',
    })
  return out
}
