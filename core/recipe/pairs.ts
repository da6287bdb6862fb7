import type { FrameRange } from '../time/range'
import type { VideoInfo } from '../media/media'
import { hasFields } from '../media/scan'
import type { Problem } from '../problem'
import { dividedRate, nominalRate, rateLabel, type Rate } from '../time/rate'
import { formatTimecode } from '../time/timecode'
import type { OutputRequest } from './output'

/** Frames a second, as they are counted, of which two make the two fields of one. */
const high = [50, 60]

/** Whether a timeline's frames can be made fields, two of them one frame. */
export const canPair = (v: Pick<VideoInfo, 'scan'> | undefined, rate: Rate): boolean =>
  v?.scan === 'progressive' && high.includes(nominalRate(rate))

/** Frames of the timeline in each frame of a file: two where fields are asked of one that can give them. */
export const framesEach = ({ settings: { scan }, source, timeline }: OutputRequest): 1 | 2 =>
  scan !== 'source' && hasFields(scan) && canPair(source.video[0], timeline.rate) ? 2 : 1

/** What is to be said of a file whose fields are made of frames, of a range and the parts of it that are delivered. */
export function saidOfPairs(
  { settings, timeline, range }: OutputRequest,
  parts: readonly FrameRange[],
): { readonly problems: Problem[]; readonly notes: string[] } {
  const problems: Problem[] = []
  const edges = new Set([range.in, range.out, ...parts.flatMap((p) => [range.in + p.in, range.in + p.out])])
  const odd = [...edges].filter((n) => n % 2 !== 0).sort((a, b) => a - b)
  if (odd.length > 0)
    problems.push({
      code: 'recipe.pair-edge',
      message:
        'Two frames are the two fields of one, and an edge falls between them: ' +
        `${odd.map((n) => formatTimecode(timeline.start + n, timeline)).join(', ')}.`,
      fix:
        settings.handles % 2 === 0
          ? 'Move the edge by one frame, or change the length of the region to an even number of frames.'
          : 'Ask for an even number of frames of handles.',
    })
  if (settings.start === 'timeline' && timeline.start % 2 !== 0)
    problems.push({
      code: 'recipe.pair-start',
      message: `The timeline begins at ${formatTimecode(timeline.start, timeline)}: half its rate has no such label.`,
      fix: 'Set the start of the timeline, or a start timecode for this outlet.',
    })
  const [from, to] = [timeline.rate, dividedRate(timeline.rate, 2)].map(rateLabel)
  return { problems, notes: [`Its ${to} frames a second have two fields each, of the timeline's ${from} frames.`] }
}
