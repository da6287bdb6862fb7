import type { AudioInfo, MediaInfo } from '../media/media'
import type { Problem } from '../problem'
import { frameInFile } from '../lineup/lineup'
import type { Paces } from '../job/paces'
import { planSteps } from '../job/steps'
import { mostLetters } from '../picture/burnin'
import type { Abilities, Output } from '../recipe/output'
import type { Overrides, Recipe, Step } from '../recipe/recipe'
import { recipeKind, withOverrides } from '../recipe/registry'
import { routeOf, sourceChannels } from '../sound/layout'
import type { Waiver } from '../spec/waiver'
import type { Spec } from '../spec/spec'
import { undrawable } from '../text'
import { topLine } from './sheet'
import { proofSpread } from './spread'
import { ordered, type Marker, type Region } from '../split/region'
import type { Linking, SplitTimeline } from '../split/timeline'
import { copySource } from '../timeline/assembly/copy'
import { assemblyProblems } from '../timeline/assembly/problems'
import { narrowedTo, placeIn, soundIn, type SourcesTaken } from '../timeline/assembly/assembly'
import { sourcesIn } from '../timeline/assembly/pictures'
import { sourceInFile, type SourcePlace } from '../timeline/sourceat'
import type { Timeline } from '../timeline/model'
import type { FrameRange } from '../time/range'
import type { Frames } from '../time/rate'
import { acceptedByRegion, type AcceptedFault } from '../split/accepted'
import { keyText, type DeliverableChoice, type DeliverableKey, type Outlet } from './outlet'

/** What a draft follows from of its timeline; of the split only its own region and the markers count. */
export type DraftTimeline = Pick<
  SplitTimeline,
  'id' | 'show' | 'name' | 'file' | 'fingerprint' | 'linking' | 'info' | 'model'
>

/** One region for one outlet, worked out from settings and headers alone: nothing of it was measured. */
export interface Draft {
  readonly key: DeliverableKey
  readonly timeline: DraftTimeline
  /** What its region is taken from: where there are several sources, those that it takes from, as one. */
  readonly source: MediaInfo
  /** Its range ends with the timeline, and is that of its handles as well. */
  readonly region: Region
  readonly handles: Handles
  /** From 01, among all regions of its timeline. */
  readonly number: string
  readonly outlet: Outlet
  readonly spec: Spec
  readonly recipe: Recipe
  readonly overrides: Overrides
  readonly waivers: readonly Waiver[]
  readonly output: Output
  readonly steps: readonly Step[]
  /** Source channels heard in it, from 0; −1 is silence. */
  readonly route: readonly number[]
  /** Chapters within the region, in frames of the file. */
  readonly chapters: readonly { readonly at: Frames; readonly name: string }[]
  /** Faults of the split at this region that somebody accepted. */
  readonly accepted: readonly AcceptedFault[]
}

/** Frames of the timeline that are delivered before and after a region: fewer where the timeline ends. */
export interface Handles {
  readonly before: Frames
  readonly after: Frames
}

/** Everything that drafts are made from. */
export interface Situation {
  readonly timelines: readonly SplitTimeline[]
  readonly outlets: readonly Outlet[]
  readonly specs: readonly Spec[]
  readonly choices: readonly DeliverableChoice[]
  readonly abilities: Abilities
  /** How fast steps have gone here. */
  readonly paces: Paces
}

/** Drafts that were made before, so that an edit of one region makes no other anew. */
export class DraftMemo {
  private kept = new Map<string, { readonly from: readonly unknown[]; readonly draft: Draft }>()
  private last: { readonly from: readonly unknown[]; readonly drafts: readonly Draft[] } = { from: [], drafts: [] }

  /**
   * A draft of every region for every outlet it was chosen for, in the order of timelines, regions and outlets; the
   * same list when it is made from the same.
   */
  drafts(s: Situation): readonly Draft[] {
    const from = [s.timelines, s.outlets, s.specs, s.choices, s.abilities]
    if (from.every((x, k) => x === this.last.from[k])) return this.last.drafts
    this.last = { from, drafts: this.renewed(s) }
    return this.last.drafts
  }

  private renewed(s: Situation): Draft[] {
    const specs = new Map(s.specs.map((x) => [x.id, x]))
    const chosen = new Map(s.choices.filter((c) => c.chosen).map((c) => [keyText(c), c]))
    const now: typeof this.kept = new Map()
    for (const timeline of s.timelines) {
      const { id, show, name, file, fingerprint, linking, info, model, split } = timeline
      const own: DraftTimeline = { id, show, name, file, fingerprint, linking, info, model }
      const of = [show, name, file.root, file.path, fingerprint, linking, info, model, split.markers]
      const list = ordered(split.regions)
      const accepted = acceptedByRegion(split)
      const cut = list.filter((r) => r.kind === 'part')
      const digits = Math.max(2, String(list.length).length)
      list.forEach((region, i) => {
        const number = String(i + 1).padStart(digits, '0')
        for (const outlet of s.outlets) {
          const key = `${timeline.id}/${region.id}/${outlet.id}`
          const choice = chosen.get(key)
          const spec = specs.get(outlet.spec)
          if (!choice || !spec) continue
          const faults = accepted.get(region.id) ?? []
          const said = faults.length ? JSON.stringify(faults) : ''
          const parts = setsBreaks(outlet, choice) ? partsWithin(region, cut) : []
          const shape = parts.map((p) => `${p.in}-${p.out}`).join()
          const from = [...of, region, number, outlet, spec, choice, s.abilities, said, shape]
          const before = this.kept.get(key)
          const same = before && from.every((x, k) => x === before.from[k])
          const { markers } = split
          const make = () =>
            draftOf(
              { timeline: own, markers, region, parts, accepted: faults, number, outlet, spec, choice },
              s.abilities,
            )
          now.set(key, same ? before : { from, draft: make() })
        }
      })
    }
    this.kept = now
    return [...now.values()].map((x) => x.draft)
  }
}

/** Whether breaks are set between the parts of what goes to an outlet: then it follows from other regions as well. */
const setsBreaks = (outlet: Outlet, choice: DeliverableChoice) =>
  (choice.overrides.breaks === undefined ? outlet.recipe.breaks : choice.overrides.breaks) !== null

/** Regions within another, of those in order. */
const partsWithin = (whole: Region, list: readonly Region[]): FrameRange[] =>
  list.filter((r) => r.id !== whole.id && r.in >= whole.in && r.out <= whole.out)

/** What one draft is worked out from. */
export interface DraftRequest {
  readonly timeline: DraftTimeline
  readonly markers: readonly Marker[]
  readonly region: Region
  /** Regions of kind `part` within it. */
  readonly parts?: readonly FrameRange[]
  readonly accepted?: readonly AcceptedFault[]
  readonly number: string
  readonly outlet: Outlet
  readonly spec: Spec
  readonly choice: DeliverableChoice
}

export function draftOf(request: DraftRequest, abilities: Abilities): Draft {
  const { timeline, markers, region, parts = [], number, outlet, spec, choice } = request
  const recipe = withOverrides(outlet.recipe, choice.overrides)
  const kind = recipeKind(recipe)
  const { range, handles } = withHandles(region, recipe.handles, timeline.model.length)
  const { info, problems } = sourceOf(timeline, kind.copies, range)
  const described = kind.output({
    ...{ settings: recipe, source: info, timeline: timeline.model, range, abilities },
    before: handles.before,
    ...(recipe.start === 'source' ? { taken: takenFrom(timeline, region.in) } : {}),
    parts: parts
      .map((p) => ({ in: p.in - range.in, out: Math.min(p.out, range.out) - range.in }))
      .filter((p) => p.out > p.in),
  })
  const drawnIn = (o: Output) => [
    ...(o.sections && o.video ? [timeline.show, region.name, outlet.name, ...Object.values(region.metadata)] : []),
    ...(o.video && !kind.copies ? [recipe.burnName ? region.name : '', recipe.burnMark] : []),
    ...(o.video && recipe.contactSheet ? [timeline.show, region.name, outlet.name] : []),
  ]
  const output = {
    ...described,
    problems: [...described.problems, ...problems, ...listProblems(timeline, range, described)],
    notes: [
      ...(described.notes ?? []),
      ...saidOf(handles, recipe.handles),
      ...lostLetters(drawnIn(described)),
      ...cutText(recipe, region, described),
    ],
  }
  // a copy carries all channels, whatever the settings say
  const route = output.audio ? routeOf(kind.copies ? 'all' : recipe.channels, sourceChannels(info)) : []
  return {
    key: { timelineId: timeline.id, regionId: region.id, outletId: outlet.id },
    timeline,
    source: info,
    region: { ...region, ...range },
    handles,
    number,
    outlet,
    spec,
    recipe,
    overrides: choice.overrides,
    waivers: choice.waivers,
    output,
    steps: planSteps({
      ...{ recipe, output, source: info, range, rate: timeline.model.rate, route },
      spread: proofSpread(recipe, spec),
    }),
    route,
    chapters: chaptersIn(markers, region, range.in, output),
    accepted: request.accepted ?? [],
  }
}

/** Where the picture of a frame of a timeline was taken from, as far as its list or its file says. */
export function takenFrom({ model, linking, file, info }: DraftTimeline, frame: Frames): SourcePlace | null {
  return linking
    ? placeIn(linking.assembly, linking.infos, frame)
    : sourceInFile(model, frame, { path: file.path, timecode: info.timecode })
}

function withHandles(region: FrameRange, wanted: Frames, length: Frames): { range: FrameRange; handles: Handles } {
  const out = Math.min(region.out, length)
  const range = { in: Math.max(0, region.in - wanted), out: Math.min(length, out + wanted) }
  return { range, handles: { before: region.in - range.in, after: range.out - out } }
}

/** Letters that cannot be drawn into pictures, in words. */
function lostLetters(drawn: readonly string[]): string[] {
  const lost = [...new Set(undrawable(drawn.join('')))].join(' ')
  return lost ? [`What is drawn into pictures goes without letters that cannot be drawn there: ${lost}`] : []
}

/** Burn-ins that are too long for a line, in words. */
function cutText(recipe: Recipe, { name }: Pick<Region, 'name'>, { video }: Output): string[] {
  if (!video || recipeKind(recipe).copies) return []
  const most = mostLetters(video.width)
  // a date has the length of any other
  const top = topLine({ recipe, region: { name }, date: '2026-01-01' })
  return [top, recipe.burnMark].some((text) => text.length > most)
    ? [`What is drawn into pictures is cut after ${most} letters: no more have room in a line.`]
    : []
}

/** Handles that are shorter than they should be, in words. */
function saidOf({ before, after }: Handles, wanted: Frames): string[] {
  if (before === wanted && after === wanted) return []
  return [`The timeline has no more than ${before} frames for handles before it and ${after} after it.`]
}

/** Chapters within a region, in frames of its file, whose range begins at a frame of the timeline. */
function chaptersIn(markers: readonly Marker[], region: FrameRange, begin: Frames, output: Output): Draft['chapters'] {
  return markers
    .filter((m) => m.at >= region.in && m.at < region.out)
    .sort((a, b) => a.at - b.at)
    .flatMap((m) => {
      const at = frameInFile(output, m.at - begin)
      return at === null ? [] : [{ at, name: m.name || 'Chapter' }]
    })
}

/** What a region takes from: sources, and the sound tracks of them. */
interface SourcesUsed extends SourcesTaken {
  readonly tracks: readonly AudioInfo[]
}

/** What was found of ranges, by timeline and its links: a region goes to several outlets, and of many one is edited. */
const usedBefore = new WeakMap<Timeline, { readonly linking: Linking; readonly ranges: Map<string, SourcesUsed> }>()
const mostRanges = 10_000

/** Those of a timeline's linked sources that a region takes from. */
export function sourcesUsed({ model }: DraftTimeline, linking: Linking, region: FrameRange): SourcesUsed {
  const kept = usedBefore.get(model)
  const before = kept?.linking === linking ? kept.ranges : new Map<string, SourcesUsed>()
  usedBefore.set(model, { linking, ranges: before })
  const range = `${region.in}-${region.out}`
  const known = before.get(range)
  if (known) return known
  const a = { timeline: model, links: linking.assembly.links }
  const taken = sourcesIn(a, region)
  const used = { ...taken, tracks: soundIn(a, linking.infos, taken.events) }
  if (before.size >= mostRanges) before.clear()
  before.set(range, used)
  return used
}

/** What is not right with the sources of a list that a file takes from. */
function listProblems({ model, linking }: DraftTimeline, range: FrameRange, { video, audio }: Output): Problem[] {
  const kinds = [...(video ? ['video' as const] : []), ...(audio ? ['audio' as const] : [])]
  return linking ? assemblyProblems(model, linking.sources, range, kinds) : []
}

/** What a range of a timeline is made from, and why it cannot be copied where it should. */
function sourceOf(t: DraftTimeline, copies: boolean, range: FrameRange): { info: MediaInfo; problems: Problem[] } {
  if (!t.linking) return { info: t.info, problems: [] }
  const { assembly, infos } = t.linking
  const used = sourcesUsed(t, t.linking, range)
  const whole = t.info.video.length ? narrowedTo(t.info, infos, used, used.tracks) : t.info
  if (!copies) return { info: whole, problems: [] }
  const copy = copySource(assembly, range, infos)
  if (!('why' in copy)) return { info: infos[copy.parts[0]!.source]!, problems: [] }
  const why = {
    code: 'rewrap.assembled',
    message: `This stretch cannot be copied untouched: ${copy.why}.`,
    fix: 'Use a master or a viewing copy.',
  }
  return { info: whole, problems: [why] }
}
