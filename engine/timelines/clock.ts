import path from 'node:path'
import { saidOf, takenAs } from '../../core/media/scan'
import { fail } from '../../core/problem'
import type { Split } from '../../core/split/region'
import type { Linking, SplitTimeline } from '../../core/split/timeline'
import { assemblyInfo } from '../../core/timeline/assembly/assembly'
import { readInterchange } from '../../core/timeline/formats/registry'
import { countedFrom } from '../../core/time/midnight'
import { nominalRate, rateLabel, rates, rateText, sameRate, type Frames, type Rate } from '../../core/time/rate'
import { canDropFrame, formatTimecode, parseTimecode, type TimeBase } from '../../core/time/timecode'
import { isRun, runAtRate } from '../../core/files/fileset'
import { openMediaFile } from '../storage/mediafile'
import type { Roots } from '../storage/roots'
import { flattenedWithCuts } from './bringin'
import { linkMedia } from './linking'
import { readListText } from './listtext'
import type { MediaIndex } from './mediaindex'

/** What changes of a timeline with its clock. */
type Clocked = Partial<
  Pick<SplitTimeline, 'file' | 'fingerprint' | 'info' | 'model' | 'problems' | 'linking' | 'split'>
>

/**
 * A timeline at another rate than was taken for it. Stills keep their frames, so regions stay where they are. A list
 * is read anew, its labels counted at the new rate, so regions and chapters keep their labels.
 */
export async function atRate(roots: Roots, index: MediaIndex, t: SplitTimeline, rate: Rate): Promise<Clocked> {
  if (!rates.some((r) => sameRate(r, rate)))
    fail(
      'timeline.rate',
      `Timelines do not run at ${rateText(rate)} frames a second here.`,
      t.name,
      `Choose one of ${rates.map(rateLabel).join(', ')}.`,
    )
  if (t.linking) return listAtRate(roots, index, t, t.linking, rate)
  if (isRun(t.file.path)) return stillsAtRate(roots, index, t, rate)
  return fail(
    'timeline.own-rate',
    'The rate of this timeline is that of its media.',
    t.name,
    'Stills, and lists that do not say theirs, can be given a rate.',
  )
}

async function stillsAtRate(roots: Roots, index: MediaIndex, t: SplitTimeline, rate: Rate): Promise<Clocked> {
  const place = { ...t.file, path: runAtRate(t.file.path, rate) }
  const file = roots.resolve(place.root, place.path)
  const opened = await openMediaFile(file, place.path)
  await opened.close()
  const { model, problems } = await flattenedWithCuts(roots, opened.info, place, t.name, t.cuts)
  return {
    file: place,
    fingerprint: await index.fingerprint(place),
    info: takenAs(opened.info, saidOf(t.info).scan),
    model: { ...model, markers: t.model.markers },
    problems,
  }
}

async function listAtRate(
  roots: Roots,
  index: MediaIndex,
  t: SplitTimeline,
  linking: Linking,
  rate: Rate,
): Promise<Clocked> {
  const { text, problems } = await readListText(roots, t.file)
  const file = path.basename(t.file.path)
  const read = readInterchange(text, file, rate)
  if (!sameRate(read.timeline.rate, rate))
    fail(
      'timeline.own-rate',
      `This list says that it runs at ${rateLabel(read.timeline.rate)} frames a second.`,
      file,
      'Have it written again at the right rate.',
    )
  const lost = t.model.events.length - read.timeline.events.length
  if (lost > 0)
    fail(
      'timeline.labels',
      `There are labels in this list that ${rateLabel(rate)} frames a second do not have: ${lost} of ` +
        `${t.model.events.length} events would be lost.`,
      file,
      'Choose a higher rate.',
    )
  // a start that a person gave stays; labels of regions are those of the list
  const before = readInterchange(text, file, t.model.rate).timeline
  const given = before.start === t.model.start ? null : formatTimecode(t.model.start, t.model)
  const clock = given === null ? read.timeline : clockOf(given, rate, t.name)
  const { name, soundTracks } = t.model
  const said = { name, start: clock.start, dropFrame: clock.dropFrame, ...(soundTracks ? { soundTracks } : {}) }
  const model = { ...read.timeline, ...said }
  return {
    ...(await linkMedia(index, model, file, linking.choices)),
    model,
    problems: [...problems, ...read.problems],
    split: relabelled(t.split, { ...before, length: t.model.length }, read.timeline),
  }
}

type Clock = TimeBase & { readonly start: Frames; readonly length: Frames }

/** A split whose frames are those that carry the same labels at another rate. */
function relabelled(split: Split, from: Clock, to: Clock): Split {
  const at = (frame: Frames): Frames => {
    const label = formatTimecode(from.start + frame, from)
    // a label that the new rate does not have becomes the last one of its second
    const last = label.replace(/\d+$/, String(nominalRate(to.rate) - 1))
    const read = parseTimecode(label, to) ?? parseTimecode(last, to) ?? to.start
    const count = countedFrom(to.start, read, to, to.start + to.length)
    return Math.max(0, Math.min(to.length, count - to.start))
  }
  const within = (frame: Frames) => Math.min(at(frame), to.length - 1)
  const regions = split.regions.map(({ looked: _looked, ...r }) => {
    const first = within(r.in)
    return { ...r, in: first, out: Math.max(at(r.out), first + 1) }
  })
  return { ...split, regions, markers: split.markers.map((m) => ({ ...m, at: within(m.at) })) }
}

/** What a label says; `;` before the frames means that labels are dropped. */
function clockOf(label: string, rate: Rate, name: string): TimeBase & { readonly start: Frames } {
  const base = { rate, dropFrame: label.includes(';') && canDropFrame(rate) }
  const start = parseTimecode(label, base)
  return start === null
    ? fail(
        'timeline.start',
        `“${label}” is no timecode at ${rateLabel(rate)} frames a second.`,
        name,
        'Write it as hh:mm:ss:ff.',
      )
    : { ...base, start }
}

/** A timeline whose first frame has another label. Media keeps its own; what a list is assembled to has this one. */
export function startingAt(t: SplitTimeline, label: string): Clocked {
  const { start, dropFrame } = clockOf(label, t.model.rate, t.name)
  const model = { ...t.model, start, dropFrame }
  const problems = t.problems.filter((p) => p.code !== 'timeline.no-timecode')
  if (!t.linking) return { model, problems }
  const { linking } = t
  const { assembly } = linking
  return {
    ...{ model, problems },
    linking: { ...linking, assembly: { ...assembly, timeline: { ...assembly.timeline, start, dropFrame } } },
    info: assemblyInfo({ ...assembly, timeline: model }, linking.infos),
  }
}
