import type { PictureFacts } from '../analysis/pictures'
import type { Frames, Seconds } from '../time/rate'
import { headPer, type MeasuredHead } from '../analysis/head'
import type { RegionSound } from '../analysis/soundstretches'
import type { Paces } from '../job/paces'
import { forecastSeconds } from '../job/steps'
import { damagedPictures, damageOf, describedMedia, describedOutput } from '../measure/described'
import { lineUpOf } from '../measure/time/lineup'
import type { Evidence } from '../measure/measure'
import { measureOf, readMeasures } from '../measure/registry'
import type { FilePath } from '../media/filepath'
import type { Scan } from '../media/media'
import { asLabelled } from '../media/scan'
import type { Fingerprint } from '../media/fingerprint'
import type { Problem } from '../problem'
import { fileBase, lostData, type Output } from '../recipe/output'
import type { Recipe, Step } from '../recipe/recipe'
import { recipeKind } from '../recipe/registry'
import { burnIns } from '../recipe/settings'
import { isTrial } from '../recipe/trial'
import { cleared, judge, worstVerdict, type RuleResult, type Verdict } from '../spec/judge'
import { asksAboutContent } from '../spec/spec'
import { usedIn } from '../timeline/assembly/pictures'
import { programmeRange, timelineSections } from '../lineup/lineup'
import type { FrameRange } from '../time/range'
import { formatTimecode } from '../time/timecode'
import type { Draft } from './draft'
import { rulesBefore, ruledAs } from './outlet'
import { fixFor, type Fix } from './fixes'
import type { EarlierFile } from './sheet'

/** What is known around a draft: measures of its region, its name on disk, room. */
export interface Known {
  /** Null while it is not measured; a problem when it cannot be. */
  readonly sound: RegionSound | Problem | null
  readonly pictures: PictureFacts | Problem | null
  readonly target: { readonly path: string; readonly version: number; readonly bad: string | null }
  /** Null where nothing is known of the disk. */
  readonly room: { readonly free: number; readonly needed: number } | null
  /** How fast steps have gone here. */
  readonly paces: Paces
  /** Why a disk that it reads or writes cannot be used. */
  readonly disk: Problem | null
  /** What is wrong with a file that it is made from, since that was brought in. */
  readonly media: Problem | null
  /** Whether a file that it is made from is still being held against the checksums beside it. */
  readonly awaited: boolean
}

/** What is known before anything was looked at. */
export const nothingKnown = (target: Known['target']): Known => ({
  ...{ target, sound: null, pictures: null, room: null },
  ...{ paces: new Map(), disk: null, media: null, awaited: false },
})

/** A rule's verdict before the run, and what would mend it. */
export type FixableResult = RuleResult & { readonly fix: Fix | null }

/** A draft held against its recipient's rules before it is made. */
export interface JudgedDraft {
  readonly draft: Draft
  /** Region and outlet in words. */
  readonly title: string
  /** Below the outlet's root. */
  readonly path: string
  readonly version: number
  readonly output: Output
  /** Line-up of the timeline that its file begins with, in frames from the first of them. */
  readonly head: MeasuredHead | null
  /** Pictures that cannot be decoded, in frames from the region's first, handles included. */
  readonly damaged: readonly FrameRange[]
  readonly results: readonly FixableResult[]
  readonly verdict: Verdict
  readonly cleared: boolean
  /** Measures are still being worked out; `undecided`: one that decides whether it is cleared. */
  readonly pending: boolean
  readonly undecided: boolean
  /** The steps that make its file. */
  readonly steps: readonly Step[]
  /** The proven file that its pictures are taken from; null where they are made. */
  readonly earlier: EarlierFile | null
  /** Seconds on one worker; `madeIn`: with all pictures made. */
  readonly seconds: Seconds
  readonly madeIn: Seconds
}

const isProblem = (x: object | null): x is Problem => x !== null && 'code' in x && 'message' in x
const fileOf = (path: string) => path.split('/').at(-1)!

/** Those of a linked timeline's sources that a region takes from, by their positions. */
function sourcesUsed({ model, linking }: Draft['timeline'], region: FrameRange): number[] {
  const used = new Set<number>()
  for (const i of linking ? usedIn(model, region) : []) {
    const { clip, outgoing } = linking!.assembly.links[i]!
    for (const link of [clip, outgoing]) if (link) used.add(link.source)
  }
  return [...used]
}

/** A file that a draft is made from, as it was brought in. */
export type MediaUsed = FilePath & { readonly fingerprint: Fingerprint }

/** The files that a draft is made from. */
export function filesUsed({ timeline: t, region }: Draft): readonly MediaUsed[] {
  if (!t.linking) return [{ ...t.file, fingerprint: t.fingerprint }]
  const { sources } = t.linking.assembly
  return sourcesUsed(t, region).map((i) => sources[i]!)
}

/** What is not whole in the files that a region takes from. */
function damageIn({ timeline: t, region }: Draft): Problem[] {
  if (!t.linking) return damageOf(t.info)
  const { infos } = t.linking
  return sourcesUsed(t, region).flatMap((i) => (infos[i] ? damageOf(infos[i]) : []))
}

/** Whether sound that decides is still being measured. */
const soundDecides = (d: Draft, known: Known) => d.output.audio !== null && known.sound === null

/** Whether pictures are still being measured that a must-rule asks about. */
const picturesDecide = (d: Draft, known: Known) =>
  d.output.video !== null && known.pictures === null && asksAboutContent(d.spec)

/** Whether what is still being measured decides if a draft is cleared. */
export const undecided = (d: Draft, known: Known) => known.awaited || soundDecides(d, known) || picturesDecide(d, known)

/** What is asked of a draft beside its recipient's rules: see `traps` of the specs. */
function trapsOf(d: Draft, heard: RegionSound | null): Evidence {
  const { recipe, outlet, output, timeline } = d
  const source = timeline.info.video[0]
  const raster = (r: Pick<Recipe, 'width' | 'height'>) => ({
    width: r.width ?? source?.width ?? 0,
    height: r.height ?? source?.height ?? 0,
  })
  return {
    trial: recipe.trial,
    handles: { wanted: recipe.handles, ...d.handles, rate: timeline.model.rate },
    ...(output.video ? { rasters: { here: raster(recipe), outlet: raster(outlet.recipe) } } : {}),
    ...(output.video ? { drawn: { what: drawnBy(recipe), master: recipeKind(recipe).finished === true } } : {}),
    ...(output.video ? { alpha: { source: source?.alpha === true, file: recipeKind(recipe).copies } } : {}),
    ...(heard ? { heard: { route: d.route, peaks: heard.sourcePeaks } } : {}),
    ...(heard && output.audio ? { sound: heard, soundKept: keepsSound(d, heard) } : {}),
    ...(output.video && timeline.info.data ? { data: dataOf(d) } : {}),
    ...(output.audio ? {} : { heard: { route: [], peaks: [] } }),
  }
}

/** Whether data in channels of the source is in the file sample for sample, each pair of channels side by side. */
function keepsSound({ output, recipe, route, timeline: { info } }: Draft, { coded }: RegionSound): boolean {
  const { audio } = output
  const changed = recipe.gain !== 0 && !recipeKind(recipe).copies
  const [source] = info.audio
  if (!audio || !source || audio.codec !== 'pcm' || changed || audio.sampleRate !== source.sampleRate) return false
  if (info.audio.some((a) => a.bitDepth > audio.bitDepth)) return false
  const beside = (i: number) => (route[i]! % 2 === 0 ? route[i + 1] === route[i]! + 1 : route[i - 1] === route[i]! - 1)
  return (coded?.channels ?? []).every(beside)
}

/** What a recipe draws into pictures, in words. */
const drawnBy = (recipe: Recipe) =>
  recipeKind(recipe).settings.flatMap((s) => (s in burnIns && recipe[s] ? [burnIns[s as keyof typeof burnIns]] : []))

/** What there is besides pictures and sound that somebody may miss, and what of it is lost. */
const dataOf = ({ output, recipe, timeline: { info } }: Draft) => ({
  source: lostData({}, info, false),
  lost: lostData(output, info, recipeKind(recipe).copies),
})

/** Peaks of tones as they will be: what is made is as it is to be, and a file without sound has none. */
function tonesOf({ route, output }: Draft, head: MeasuredHead | null, gain: number) {
  const heard = route.flatMap((c) => head?.tones[c] ?? [])
  const found = heard.length ? Math.max(...heard) + gain : null
  return output.audio ? { found } : { made: null, found: null }
}

/** Pictures that cannot be decoded, of those that a file shows; in frames from its region's first. */
function damagedIn({ output }: Draft, pictures: PictureFacts | null): readonly FrameRange[] {
  const { from } = timelineSections(output)[0]!
  return output.video ? (pictures?.damaged ?? []).map((r) => ({ in: from + r.in, out: from + r.out })) : []
}

/** What the pictures that a draft takes are said to be: by a file itself, where they are copied with what it says. */
function labelOf({ recipe, timeline: { info } }: Draft): { scan?: Scan } {
  const [v] = info.video
  return v ? { scan: (recipeKind(recipe).copies ? asLabelled(v) : v).scan } : {}
}

/** Line-up of the timeline that a file begins with, at a frame, in words: what is measured is what follows it. */
function saidOf(head: MeasuredHead | null, first: Frames, { timeline: { model } }: Draft): string[] {
  if (!head) return []
  const at = formatTimecode(model.start + first + head.programme, model)
  return [`It begins with line-up of its own (${head.by.join(' and ')}): measured is what follows, from ${at} on.`]
}

/** Judges a draft: the forecast from its settings, the source from what was measured over its region. */
export function judgeDraft(d: Draft, known: Known): JudgedDraft {
  const seconds = forecastSeconds(d.steps, d.output, d.timeline.model.rate, known.paces)
  const { model, info } = d.timeline
  const sound = isProblem(known.sound) ? null : known.sound
  const pictures = isProblem(known.pictures) ? null : known.pictures
  const damaged = damagedIn(d, pictures)
  const head = sound?.head ?? pictures?.head ?? null
  const whole = { ...model, start: model.start + d.region.in }
  const first = programmeRange(d.output, d.region).in
  const base = { ...whole, start: model.start + first + (head?.programme ?? 0) }
  const obstacles = [...d.output.problems, ...[known.sound, known.disk, known.media].filter(isProblem)]
  const notes = [...(d.output.notes ?? []), ...saidOf(head, first, d)]
  const output = { ...d.output, problems: obstacles, ...(notes.length ? { notes } : {}) }
  const heard = d.output.audio && sound ? sound : null
  const gain = recipeKind(d.recipe).copies ? 0 : d.recipe.gain
  const name = { file: fileOf(known.target.path), bad: known.target.bad }
  const rules = rulesBefore(d.outlet, d.spec, ruledAs(d.output, d.recipe))
  const asked = [...new Set(rules.map((r) => measureOf(r.measure)))]
  const read = (evidence: Evidence, from: string) => readMeasures(evidence, from, asked)
  const source = {
    ...read(
      {
        described: describedMedia(info, model),
        damage: [...damageIn(d), ...damagedPictures(damaged, whole)],
        lookedThrough: !d.output.video || pictures !== null,
      },
      'source file',
    ),
    ...(heard ? read({ sound: heard, trouble: heard.faults, base }, 'measured over the region') : {}),
    ...(pictures && d.output.video ? read({ pictures, ...labelOf(d), base }, 'measured over the region') : {}),
  }
  const made = fileBase({ output, timeline: model })
  const own = head && headPer(head, output.perFrame ?? 1)
  const forecast = {
    ...read(
      {
        described: describedOutput(output, made),
        lineUp: lineUpOf(output, own, made, tonesOf(d, head, gain)),
      },
      'recipe',
    ),
    ...read(trapsOf(d, heard), 'recipe'),
    ...(output.data?.includes('ancillary') ? {} : read({ ancillary: null }, 'recipe')),
    ...read({ obstacles, awaited: known.awaited }, 'this machine'),
    ...(heard ? read({ sound: heard, gain }, 'measured, with gain') : {}),
    ...read({ metadata: d.region.metadata, kind: d.region.kind ?? null }, 'region'),
    ...read({ name }, 'name pattern'),
    ...(known.room ? read({ room: known.room }, d.outlet.root) : {}),
  }
  const results = judge(rules, forecast, source, null, d.waivers).map((r) => ({
    ...r,
    fix: fixFor(r, d.recipe, info),
  }))
  return {
    draft: d,
    title: `${d.region.name || 'Without a name'} → ${d.outlet.name}${isTrial(d.recipe) ? ', a trial' : ''}`,
    path: known.target.path,
    head,
    damaged,
    version: known.target.version,
    output,
    results,
    verdict: worstVerdict(results.map((r) => r.verdict)),
    cleared: cleared(results),
    undecided: undecided(d, known),
    pending: known.awaited || soundDecides(d, known) || (d.output.video !== null && known.pictures === null),
    ...{ steps: d.steps, earlier: null, seconds, madeIn: seconds },
  }
}
