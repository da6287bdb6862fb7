import path from 'node:path'
import { mediaTimeBase, type MediaInfo, type StartTimecode } from '../../core/media/media'
import { countAt, dropping } from '../../core/media/starttimecode'
import { fail, type Problem } from '../../core/problem'
import { countsSamples, makeRate, rateText, sameRate, type Frames, type Rate, type Samples } from '../../core/time/rate'
import { frameAtSample, mulDivRound } from '../../core/time/samples'
import { plural } from '../../core/text'
import { formatTimecode } from '../../core/time/timecode'
import { placeTimeline } from '../../core/timeline/align'
import { readInterchange } from '../../core/timeline/formats/registry'
import { normalSpeed, type Timeline } from '../../core/timeline/model'

/**
 * The timeline that sound alone is: counted in samples, from where its time reference says; cue points are chapters.
 */
function soundTimeline(info: MediaInfo, mediaPath: string, name: string): { model: Timeline; problems: Problem[] } {
  const [a] = info.audio
  const rate = makeRate(a!.sampleRate)
  const counted = (samples: Samples): Frames => frameAtSample(samples, rate, a!.sampleRate)
  const length = counted(Math.max(...info.audio.map((t) => t.samples)))
  if (!countsSamples(rate))
    fail(
      'timeline.sample-rate',
      `Sound of ${a!.sampleRate} samples a second is too coarse to be split.`,
      mediaPath,
      'Ask for a copy at a usual sample rate.',
    )
  if (length === 0)
    fail('timeline.empty', 'There is no sound in this file.', mediaPath, 'Copy it again from where it came from.')
  const whole = { in: 0, out: length }
  const model: Timeline = {
    name,
    rate,
    dropFrame: false,
    start: counted(info.bext?.timeReference ?? 0),
    length,
    tracks: [{ name: 'A', kind: 'audio' }],
    events: [
      {
        track: 'A',
        kind: 'audio',
        name,
        reel: path.basename(mediaPath),
        file: mediaPath,
        source: { ...whole, rate },
        speed: normalSpeed,
        record: whole,
        transition: null,
      },
    ],
    markers: chaptersOf(info, rate).filter((m) => m.at < length),
  }
  return { model, problems: [...info.problems] }
}

/** The timeline a flattened file is: one event, or the cuts of the list that goes with it. */
export function flattenedTimeline(
  info: MediaInfo,
  mediaPath: string,
  name: string,
  cuts: { readonly text: string; readonly path: string } | null,
): { model: Timeline; problems: Problem[] } {
  const [v] = info.video
  if (!v) {
    if (cuts)
      fail(
        'timeline.sound-cuts',
        'A list of cuts counts frames, and sound alone has none.',
        cuts.path,
        'Give its regions as CSV, with times of day or samples, or its chapters as WebVTT.',
      )
    return soundTimeline(info, mediaPath, name)
  }
  const base = mediaTimeBase(info)!
  const hasTimecode = info.timecode !== null && sameRate(base.rate, v.rate)
  const start = hasTimecode ? info.timecode!.startFrames : 0
  const dropFrame = hasTimecode && info.timecode!.dropFrame
  const problems: Problem[] = [...info.problems, ...(hasTimecode ? jumpsSaid(info.timecode!, mediaPath) : [])]
  const whole: Timeline = {
    name,
    rate: v.rate,
    dropFrame,
    start,
    length: v.frames,
    tracks: [{ name: 'V', kind: 'video' }],
    events: [
      {
        track: 'V',
        kind: 'video',
        name,
        reel: path.basename(mediaPath),
        file: mediaPath,
        source: { in: 0, out: v.frames, rate: v.rate },
        speed: normalSpeed,
        record: { in: 0, out: v.frames },
        transition: null,
      },
    ],
    markers: chaptersOf(info, v.rate),
  }
  if (cuts) return withCuts(whole, hasTimecode ? info.timecode : null, cuts, problems)
  if (hasTimecode && info.timecode!.dropUntold) problems.push(dropUntold(mediaPath))
  if (!info.timecode)
    problems.push({
      code: 'timeline.no-timecode',
      message: 'The file carries no start timecode; the timeline begins at 00:00:00:00.',
      where: mediaPath,
      fix: 'Bring in a cut list with it, or set start timecodes at the outlets.',
    })
  return { model: whole, problems }
}

/** That the timecode of a file jumps, where it does: the timeline counts on. */
function jumpsSaid(timecode: StartTimecode, where: string): Problem[] {
  const [jump] = timecode.jumps ?? []
  if (!jump) return []
  const label = (count: Frames) => formatTimecode(count, timecode)
  const more = timecode.jumps!.length - 1
  return [
    {
      code: 'timeline.timecode-jumps',
      message:
        `The timecode of this file jumps, from ${label(countAt(timecode, jump.at - 1))} to ${label(jump.count)}` +
        `${more ? ` and in ${plural(more, 'more place')}` : ''}; the timeline counts on from its start.`,
      where: `${where}, frame ${jump.at}`,
      fix: 'Go by the pictures behind it: labels there are the timeline’s, not the file’s.',
    },
  ]
}

/** That it is not known whether labels of stills are dropped. */
const dropUntold = (where: string): Problem => ({
  code: 'timeline.drop-untold',
  message:
    'These stills cannot say whether labels are dropped, and theirs follow either way: they are counted as non-drop.',
  where,
  fix: 'Where they are dropped, type the start with ; before its frames.',
})

/** Gives a flattened timeline the events and markers of a list, and the clock of a list when it has none. */
function withCuts(
  whole: Timeline,
  timecode: StartTimecode | null,
  cuts: { readonly text: string; readonly path: string },
  problems: Problem[],
): { model: Timeline; problems: Problem[] } {
  const { name, rate, length } = whole
  const list = readInterchange(cuts.text, path.basename(cuts.path), rate)
  problems.push(...list.problems)
  if (!sameRate(list.timeline.rate, rate))
    fail(
      'timeline.rate',
      `The list runs at ${rateText(list.timeline.rate)} frames a second, the media at ${rateText(rate)}.`,
      cuts.path,
      'Choose the list that was made for this media.',
    )
  const { startFrames: start, dropFrame } = timecode
    ? dropping(timecode, list.timeline.dropFrame)
    : { startFrames: whole.start, dropFrame: whole.dropFrame }
  const media = { start, length, dropFrame, hasTimecode: timecode !== null }
  const placed = placeTimeline(list.timeline, media, path.basename(cuts.path))
  problems.push(...placed.problems)
  const { timeline } = placed
  const model = timeline.events.length
    ? { ...timeline, name, markers: timeline.markers.length ? timeline.markers : whole.markers }
    : { ...whole, start: timeline.start, dropFrame: timeline.dropFrame, markers: timeline.markers }
  return { model, problems }
}

/** The chapters a file carries, in its frames. */
function chaptersOf(info: MediaInfo, rate: Rate): Timeline['markers'] {
  return info.chapters.map((c) => ({
    name: c.name,
    kind: 'chapter',
    at: mulDivRound(c.at, rate.num, rate.den * c.timescale),
    frames: 0,
  }))
}
