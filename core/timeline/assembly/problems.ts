import type { Problem } from '../../problem'
import { overlaps, type FrameRange } from '../../time/range'
import { formatTimecode } from '../../time/timecode'
import { isCaution, troublesIn, type Source } from '../link/source'
import type { Timeline } from '../model'
import { usedIn } from './pictures'

/** What is not as it should be within a range: links in trouble, and wipes, which are made as dissolves. */
export function assemblyProblems(t: Timeline, sources: readonly Source[], range: FrameRange): Problem[] {
  const used = usedIn(t, range)
  const out = sources
    .flatMap(troublesIn)
    .filter((x) => !isCaution(x.state) && x.events.some((i) => used.has(i)))
    .map((x) => x.problem)
  const wipe = t.events.find((e) => e.transition?.kind === 'wipe' && overlaps(e.record, range))
  if (wipe)
    out.push({
      code: 'assembly.wipe',
      message: 'Wipes are made as dissolves of the same length.',
      where: formatTimecode(t.start + wipe.record.in, t),
      fix: 'Deliver that stretch as a file of its own where the wipe matters.',
    })
  return out
}
