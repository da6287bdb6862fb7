import type { PictureFacts } from '../analysis/pictures'
import type { Frames, Seconds } from '../time/rate'
import { isKnownCodec, soundCodec } from '../codec/registry'
import { closedIn, openTracks } from '../codec/sound'
import { unitsTell, type SourceUnits } from '../codec/unitfacts'
import { headPer, type MeasuredHead } from '../analysis/head'
import type { RegionSound } from '../analysis/soundstretches'
import type { Paces } from '../job/paces'
import { forecastSeconds } from '../job/steps'
import { damagedPictures, damageOf, describedMedia, describedOutput } from '../measure/described'
import { lineUpOf } from '../measure/time/lineup'
import type { Evidence, Measure, Reading, Readings } from '../measure/measure'
import { measureOf, readMeasures } from '../measure/registry'
import { colourOf, colourText, isColourUntold } from '../media/colour'
import type { FilePath } from '../media/filepath'
import type { MediaInfo, Scan } from '../media/media'
import { asLabelled } from '../media/scan'
import type { Fingerprint } from '../media/fingerprint'
import type { Problem } from '../problem'
import { codecsOf, fileBase, type Output } from '../recipe/output'
import type { Step } from '../recipe/recipe'
import { recipeKind } from '../recipe/registry'
import { namedLayout } from '../recipe/soundtaken'
import { isTrial } from '../recipe/trial'
import { cleared, judge, worstVerdict, type RuleResult, type Verdict } from '../spec/judge'
import { asksAboutContent, asksAboutUnits, measuresAsked } from '../spec/spec'
import { listed, plural } from '../text'
import { isMade, placed, programmeRange, timelineSections } from '../lineup/lineup'
import type { MadeSection } from '../lineup/section'
import type { FrameRange } from '../time/range'
import { formatTimecode } from '../time/timecode'
import { sourcesUsed, type Draft } from './draft'
import { rulesBefore, ruledAs } from './outlet'
import { fixFor, type Fix } from './fixes'
import type { EarlierFile } from './sheet'
import { changesFields, changesLevels, changesPictures, cutsLevels, knownBefore, trapsOf } from './foreseen'

/** What is known around a draft: measures of its region, its name on disk, room. */
export interface Known {
  /** Null while it is not measured; a problem when it cannot be. */
  readonly sound: RegionSound | Problem | null
  readonly pictures: PictureFacts | Problem | null
  /** What the coded pictures it takes from say of themselves; null while they are being read. */
  readonly units: SourceUnits | Problem | null
  readonly target: { readonly path: string; readonly version: number; readonly bad: string | null }
  /** Null where nothing is known of the disk. */
  readonly room: NonNullable<Evidence['room']> | null
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
  ...{ target, sound: null, pictures: null, units: null, room: null },
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

/** A file that a draft is made from, as it was brought in. */
export type MediaUsed = FilePath & { readonly fingerprint: Fingerprint }

/** The files that a draft is made from. */
export function filesUsed({ timeline: t, region }: Draft): readonly MediaUsed[] {
  if (!t.linking) return [{ ...t.file, fingerprint: t.fingerprint }]
  const { sources } = t.linking.assembly
  return sourcesUsed(t, t.linking, region).all.map((i) => sources[i]!)
}

/** Those of them whose coded pictures may say something of themselves. */
export function unitsUsed({ timeline: t, region }: Draft): readonly Fingerprint[] {
  const tells = (m: MediaInfo | undefined) => (m?.video ?? []).some((v) => unitsTell(v.codec))
  if (!t.linking) return tells(t.info) ? [t.fingerprint] : []
  const { assembly, infos } = t.linking
  const { video } = sourcesUsed(t, t.linking, region)
  return video.flatMap((i) => (tells(infos[i]) ? [assembly.sources[i]!.fingerprint] : []))
}

/** What is not whole in the files that a region takes from. */
function damageIn({ timeline: t, region }: Draft): Problem[] {
  if (!t.linking) return damageOf(t.info)
  const { infos } = t.linking
  return sourcesUsed(t, t.linking, region).all.flatMap((i) => (infos[i] ? damageOf(infos[i]) : []))
}

/** Why sound that a file takes is read nowhere here; null where it is. */
const unread = ({ source, route }: Draft) => closedIn(source.audio, route)

/** Whether the sound of a file is measured before it is made: where there is some, and it can be read. */
export const soundMeasured = (d: Draft) => d.output.audio !== null && unread(d) === null

/** Whether sound that decides is still being measured. */
const soundDecides = (d: Draft, known: Known) => known.sound === null && soundMeasured(d)

/** Whether pictures are still being measured that a must-rule asks about. */
const picturesDecide = (d: Draft, known: Known) =>
  d.output.video !== null && known.pictures === null && asksAboutContent(d.spec)

/** Whether coded pictures are still being read that are to be copied where a must-rule asks what they say. */
const unitsDecide = (d: Draft, known: Known) =>
  d.output.video !== null && known.units === null && recipeKind(d.recipe).copies && asksAboutUnits(d.spec)

/** Whether what is still being measured decides if a draft is cleared. */
export const undecided = (d: Draft, known: Known) =>
  known.awaited || soundDecides(d, known) || picturesDecide(d, known) || unitsDecide(d, known)

/** Whether anything is still being measured. */
const pending = (d: Draft, known: Known) =>
  known.awaited ||
  soundDecides(d, known) ||
  (d.output.video !== null && (known.pictures === null || known.units === null))

/** Peaks of tones as they will be, by channel: what is made is as it is to be, and a file without sound has none. */
function tonesOf({ route, output }: Draft, head: MeasuredHead | null, gain: number) {
  const { audio } = output
  if (!audio) return { made: [], found: [] }
  const level = placed(output).find((s) => isMade(s) && s.level !== undefined) as MadeSection | undefined
  const peaks = route.map((c) => head?.tones[c] ?? null)
  // channels that are brought together are as high as the highest of them, as far as that can be told
  const highest = Math.max(...peaks.map((peak) => peak ?? -Infinity))
  const given = audio.downmix ? Array.from({ length: audio.channels }, () => highest) : peaks
  const heard = audio.downmix ? given.map(() => true) : route.map((c) => c >= 0)
  return {
    made: heard.map((so) => (so ? (level?.level ?? null) : null)),
    found: given.map((peak) => (peak === null || peak === -Infinity ? null : peak + gain)),
  }
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

/** That sound is measured with whatever line-up it may begin with, in words. */
function saidOfHead(d: Draft): string[] {
  const why = soundMeasured(d) ? headUnknown(d) : null
  return why ? [`Whether it begins with line-up is not known: ${why}. Its sound is measured as a whole.`] : []
}

/** Sound that is copied without being measured, in words. */
function saidOfCopied(d: Draft): string[] {
  const why = d.output.audio && recipeKind(d.recipe).copies ? unread(d) : null
  return why ? [`Its sound is copied, and not measured: ${why.message}`] : []
}

/** That levels of the source are cut off, in words. */
function saidOfLevels(d: Draft, pictures: PictureFacts | null): string[] {
  const beyond = cutsLevels(d) ? (pictures?.levels?.excursions ?? []) : []
  const frames = beyond.reduce((n, r) => n + r.out - r.in, 0)
  return frames ? [`Levels beyond black and white, in ${plural(frames, 'frame')} of it, are cut off in the files.`] : []
}

/** What pictures are taken for of which nothing says the colour, in words. */
function saidOfColour({ recipe, output, timeline: t, region }: Draft): string[] {
  if (!output.video || recipeKind(recipe).copies) return []
  const infos = t.linking ? sourcesUsed(t, t.linking, region).video.map((i) => t.linking!.infos[i]) : [t.info]
  const untold = infos.flatMap((info) => info?.video.slice(0, 1).filter(isColourUntold) ?? [])
  const kinds = [...new Set(untold.map((v) => colourText(colourOf(v))))]
  return kinds.length ? [`Nothing says the colour of its pictures: they are taken for ${listed(kinds)}.`] : []
}

/** What is known of a draft, put together. */
interface Situated {
  readonly d: Draft
  readonly known: Known
  /** What was measured of it; null while it is not, and where it cannot be. */
  readonly pictures: PictureFacts | null
  /** Else why they were not read. */
  readonly units: SourceUnits | string
  readonly heard: RegionSound | null
  readonly head: MeasuredHead | null
  readonly damaged: readonly FrameRange[]
  /** The first frame of its programme, of its region's timeline. */
  readonly first: Frames
  readonly output: Output
  readonly read: (evidence: Evidence, from: string) => Readings
}

function situated(d: Draft, known: Known, asked: readonly Measure[]): Situated {
  const sound = isProblem(known.sound) ? null : known.sound
  const pictures = isProblem(known.pictures) ? null : known.pictures
  const head = sound?.head ?? pictures?.head ?? null
  const first = programmeRange(d.output, d.region).in
  const obstacles = [...d.output.problems, ...[known.sound, known.disk, known.media].filter(isProblem)]
  const ofSound = [...saidOf(head, first, d), ...saidOfHead(d), ...saidOfCopied(d)]
  const notes = [...(d.output.notes ?? []), ...ofSound, ...saidOfColour(d), ...saidOfLevels(d, pictures)]
  return {
    ...{ d, known, pictures, head, first },
    units: isProblem(known.units)
      ? `its coded pictures were not read (${known.units.message.replace(/\.$/, '')})`
      : (known.units ?? 'its coded pictures are still being read'),
    heard: d.output.audio && sound ? sound : null,
    damaged: damagedIn(d, pictures),
    output: { ...d.output, problems: obstacles, ...(notes.length ? { notes } : {}) },
    read: (evidence, from) => readMeasures(evidence, from, asked),
  }
}

/** Readings that tell of the source alone, of those measures that are asked for. */
const setAside = (readings: Readings, aside: NonNullable<Reading['aside']>, of = (_: Measure) => true): Readings =>
  Object.fromEntries(Object.entries(readings).map(([name, r]) => [name, of(measureOf(name)) ? { ...r, aside } : r]))

/** What the source is, and what was measured over the region. */
function sourceReadings({ d, units, pictures, heard, head, damaged, first, read }: Situated): Readings {
  const { model, info } = d.timeline
  const whole = { ...model, start: model.start + d.region.in }
  const base = { ...whole, start: model.start + first + (head?.programme ?? 0) }
  const coded = typeof units === 'string' ? { leaning: null, unread: units } : { leaning: units.leaning }
  const damage = [...damageIn(d), ...damagedPictures(damaged, whole)]
  const [changed, woven, levelled] = [changesPictures(d), changesFields(d), changesLevels(d)]
  const unlike = (m: Measure) =>
    (m.seen === true && changed) || (m.ofFields === true && woven) || (m.ofLevels === true && levelled)
  const seen = pictures && d.output.video ? read({ pictures, ...labelOf(d), base }, 'measured over the region') : {}
  return {
    ...setAside(read({ described: describedMedia(info, model), coded }, 'source file'), 'said'),
    ...read({ damage, lookedThrough: !d.output.video || pictures !== null }, 'source file'),
    ...(heard ? read({ sound: heard, trouble: heard.faults, base }, 'measured over the region') : {}),
    ...setAside(seen, 'changed', unlike),
  }
}

/** What moves figures of sound that is made, beside its gain. */
type Mover = keyof NonNullable<Measure['moves']>

const movedText: Readonly<Record<Mover, string>> = {
  coded: 'before it is coded',
  resampled: 'before it is brought to another rate',
  rounded: 'before it is rounded to fewer bits',
}

function movedBy({ output: { audio }, recipe, timeline: { info } }: Draft): Mover | null {
  if (!audio) return null
  if (!soundCodec(audio.codec)?.keepsDepth) return 'coded'
  if (info.audio.some((a) => a.sampleRate !== audio.sampleRate)) return 'resampled'
  const finer = info.audio.some((a) => a.bitDepth > audio.bitDepth || !soundCodec(a.codec)?.keepsDepth)
  return audio.bitDepth < 24 && (finer || recipe.gain !== 0 || audio.downmix) ? 'rounded' : null
}

/** Figures of sound with how far they may be off. */
const withGive = (readings: Readings, moved: Mover, { recipe, output }: Draft): Readings =>
  Object.fromEntries(
    Object.entries(readings).map(([name, r]) => {
      const { moves } = measureOf(name)
      const by = moved === 'coded' ? moves?.coded(recipe.soundBitrate / output.audio!.channels) : moves?.[moved]
      return [name, by ? { ...r, give: { by, when: movedText[moved] } } : r]
    }),
  )

/** Why nobody knows whether a region begins with line-up, which is told by its tone and its pictures; null else. */
function headUnknown({ source: { audio, video } }: Draft): string | null {
  const kind = (video[0] ? codecsOf(video[0]) : []).find((c) => !isKnownCodec(c))
  if (kind !== undefined) return `its pictures are not read (kind “${kind}”)`
  return audio.length && openTracks(audio).length === 0 ? soundNotRead(closedIn(audio, [0])!) : null
}

const soundNotRead = (why: Problem) => `its sound is not read (${why.message.replace(/\.$/, '')})`

/** A reading of what will never be known. */
const never = (text: string): Reading => ({ value: null, text, from: 'source file' })

/** Readings of what a file is that are not known after all. */
const unknown = (readings: Readings, reading: Reading): Readings =>
  Object.fromEntries(
    Object.keys(readings).flatMap((name) => (measureOf(name).stage === 'before' ? [] : [[name, reading]])),
  )

/** What will never be known of sound that is copied and not read, of the measures that are asked for. */
function neverHeard(d: Draft, asked: readonly Measure[]): Readings {
  const why = recipeKind(d.recipe).copies && d.output.audio ? unread(d) : null
  if (!why) return {}
  const reading = never(soundNotRead(why))
  return Object.fromEntries(
    asked.filter((m) => m.group === 'sound' && m.stage !== 'written').map((m) => [m.name, reading]),
  )
}

/** What a file will be. */
function forecastReadings({ d, known, units, heard, head, output, read }: Situated): Readings {
  const made = fileBase({ output, timeline: d.timeline.model })
  const own = head && headPer(head, output.perFrame ?? 1)
  const { copies } = recipeKind(d.recipe)
  const gain = copies ? 0 : d.recipe.gain
  const moved = copies ? null : movedBy(d)
  const from = ['measured, with gain', ...(moved ? [movedText[moved]] : [])].join(', ')
  const figures = heard ? read({ sound: heard, gain }, from) : {}
  const lineUp = lineUpOf(output, own, made, tonesOf(d, head, gain))
  const named = output.audio ? { layout: namedLayout(output, d.source, d.route) } : {}
  const inFront = output.video ? { lineUp, ...named } : {}
  const untold = head || output.sections ? null : headUnknown(d)
  return {
    ...read({ described: describedOutput(output, made), ...inFront, ...knownBefore(d, units, heard) }, 'recipe'),
    ...(untold ? unknown(read(inFront, 'recipe'), never(untold)) : {}),
    ...read(trapsOf(d, heard, units), 'recipe'),
    ...read({ obstacles: output.problems, awaited: known.awaited }, 'this machine'),
    ...(moved ? withGive(figures, moved, d) : figures),
    ...read({ metadata: d.region.metadata, kind: d.region.kind ?? null }, 'region'),
    ...read({ name: { file: fileOf(known.target.path), bad: known.target.bad } }, 'name pattern'),
    ...(known.room ? read({ room: known.room }, d.outlet.root) : {}),
  }
}

/** Judges a draft: the forecast from its settings, the source from what was measured over its region. */
export function judgeDraft(d: Draft, known: Known): JudgedDraft {
  const seconds = forecastSeconds(d.steps, d.output, d.timeline.model.rate, known.paces)
  const rules = rulesBefore(d.outlet, d.spec, ruledAs(d.output, d.recipe))
  const asked = measuresAsked(rules)
  const at = situated(d, known, asked)
  const forecast = { ...neverHeard(d, asked), ...forecastReadings(at) }
  const results = judge(rules, forecast, sourceReadings(at), null, d.waivers).map((r) => ({
    ...r,
    fix: fixFor(r, d.recipe, d.timeline.info),
  }))
  return {
    draft: d,
    title: `${d.region.name || 'Without a name'} → ${d.outlet.name}${isTrial(d.recipe) ? ', a trial' : ''}`,
    path: known.target.path,
    head: at.head,
    damaged: at.damaged,
    version: known.target.version,
    output: at.output,
    results,
    verdict: worstVerdict(results.map((r) => r.verdict)),
    cleared: cleared(results),
    undecided: undecided(d, known),
    pending: pending(d, known),
    ...{ steps: d.steps, earlier: null, seconds, madeIn: seconds },
  }
}
