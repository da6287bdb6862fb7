import { existsSync } from 'node:fs'
import path from 'node:path'
import { bytesText } from '../../core/text'
import { expandPattern, unusable, type NameValues } from '../../core/deliverable/names'
import { collisions, freePath, versionLabel } from '../../core/deliverable/versions'
import { forecastSeconds } from '../../core/job/steps'
import { describeOutput, routeOf, sourceChannels, type Abilities, type Output } from '../../core/recipe/output'
import { extensionOf, withOverrides, type Overrides, type Recipe } from '../../core/recipe/recipe'
import { fixFor, type Fix } from '../../core/deliverable/fixes'
import { cleared, judge, worstVerdict, type RuleResult, type Verdict, type Waiver } from '../../core/spec/judge'
import {
  contentReadings,
  fileReadings,
  forecastReadings,
  soundReadings,
  troubleReadings,
  type PictureFacts,
  type Readings,
} from '../../core/spec/reading'
import { rulesFor, type Spec } from '../../core/spec/spec'
import type { MediaInfo } from '../../core/media/media'
import type { Problem } from '../../core/problem'
import { ordered, type Region } from '../../core/split/region'
import { assemblyProblems, copySource } from '../../core/timeline/assemble'
import type { FrameRange } from '../../core/time/range'
import { rateLabel } from '../../core/time/rate'
import { formatTimecode } from '../../core/time/timecode'
import { factKeys, readFacts } from '../store/facts'
import type { Assignment, Outlet } from './outlets'
import type { Roots } from '../storage/roots'
import type { StoredTimeline } from '../timelines/timelines'
import type { Db } from '../store/database'
import { Dispatch } from '../queue/sqlite'
import type { RegionSound } from '../worker/steps/analysesound'
import type { BackgroundPayload } from '../worker/loop'

/** One region for one outlet, worked out: its file, what the rules say, what would mend it. */
export interface Deliverable {
  readonly timelineId: string
  readonly regionId: string
  readonly outletId: string
  readonly title: string
  readonly recipe: Recipe
  readonly overrides: Overrides
  /** Below the outlet's root. */
  readonly path: string
  readonly version: number
  readonly output: Output
  readonly results: readonly (RuleResult & { readonly fix: Fix | null })[]
  readonly verdict: Verdict
  readonly cleared: boolean
  /** Measures still being worked out. */
  readonly pending: boolean
  readonly soundPending: boolean
  /** Seconds on one worker. */
  readonly seconds: number
}

/** Everything the deliverables of all timelines are worked out from. */
export interface Situation {
  readonly timelines: readonly StoredTimeline[]
  readonly outlets: readonly Outlet[]
  readonly specs: readonly Spec[]
  readonly assignments: readonly Assignment[]
  readonly abilities: Abilities
}

interface Draft {
  readonly timeline: StoredTimeline
  readonly region: Region
  readonly outlet: Outlet
  readonly spec: Spec
  readonly recipe: Recipe
  readonly overrides: Overrides
  readonly waivers: readonly Waiver[]
  readonly output: Output
  readonly route: number[]
  readonly values: NameValues
  readonly soundKey: string
  readonly picturesKey: string
}

const channelWord = (n: number) => ({ 0: 'silent', 1: 'mono', 2: 'stereo', 6: '5.1' })[n] ?? `${n}ch`

/** What can stand in the name of one deliverable, version aside. */
function nameValues(
  t: StoredTimeline,
  r: Region,
  number: string,
  outlet: Outlet,
  recipe: Recipe,
  o: Output,
  today: Date,
): NameValues {
  const date = `${today.getFullYear()}-${String(today.getMonth() + 1).padStart(2, '0')}-${String(today.getDate()).padStart(2, '0')}`
  return {
    show: t.show,
    timeline: t.name,
    region: r.name,
    number,
    outlet: outlet.name,
    size: o.video ? `${o.video.width}x${o.video.height}` : 'sound',
    height: o.video ? String(o.video.height) : '',
    rate: rateLabel(t.model.rate),
    codec: o.video?.codec ?? o.audio?.codec ?? '',
    channels: channelWord(o.audio?.channels ?? 0),
    timecode: formatTimecode(o.start.frames, t.model).replace(/[:;]/g, ''),
    length: String(o.frames),
    date,
    weekday: today.toLocaleDateString('en-GB', { weekday: 'long' }),
    version: versionLabel(1),
    production: r.metadata['production number'] ?? '',
    source: path.basename(t.place.path, path.extname(t.place.path)),
  }
}

function drafts(s: Situation, today: Date): Draft[] {
  const specs = new Map(s.specs.map((x) => [x.id, x]))
  const outlets = new Map(s.outlets.map((o) => [o.id, o]))
  const byTimeline = new Map<string, Assignment[]>()
  for (const a of s.assignments)
    if (a.chosen) byTimeline.set(a.timelineId, [...(byTimeline.get(a.timelineId) ?? []), a])
  const out: Draft[] = []
  for (const timeline of s.timelines) {
    const list = ordered(timeline.split.regions)
    const chosen = new Map((byTimeline.get(timeline.id) ?? []).map((a) => [`${a.regionId}/${a.outletId}`, a]))
    const digits = Math.max(2, String(list.length).length)
    list.forEach((region, i) => {
      for (const outlet of outlets.values()) {
        const a = chosen.get(`${region.id}/${outlet.id}`)
        const spec = specs.get(outlet.spec)
        if (!a || !spec) continue
        const recipe = withOverrides(outlet.recipe, a.overrides)
        const range = { in: region.in, out: Math.min(region.out, timeline.model.length) }
        const { info, problems } = sourceOf(timeline, recipe, range)
        const described = describeOutput(recipe, info, timeline.model, range, s.abilities)
        const output = { ...described, problems: [...described.problems, ...problems] }
        const total = sourceChannels(info)
        // a rewrap carries all channels, whatever the recipe's route
        const route = recipe.kind === 'rewrap' ? Array.from({ length: total }, (_, c) => c) : routeOf(recipe, total)
        out.push({
          timeline,
          region: { ...region, ...range },
          outlet,
          spec,
          recipe,
          overrides: a.overrides,
          waivers: a.waivers,
          output,
          route,
          values: nameValues(timeline, region, String(i + 1).padStart(digits, '0'), outlet, recipe, output, today),
          soundKey: factKeys.regionSound(timeline.fingerprint, range, route),
          picturesKey: factKeys.regionPictures(timeline.fingerprint, range),
        })
      }
    })
  }
  return out
}

/** What a range of a timeline is made from, for a recipe, and what is not right with it. */
function sourceOf(t: StoredTimeline, recipe: Recipe, range: FrameRange): { info: MediaInfo; problems: Problem[] } {
  if (!t.linking) return { info: t.info, problems: [] }
  const { assembly, infos, sources } = t.linking
  const problems = assemblyProblems(t.model, sources, range)
  if (recipe.kind !== 'rewrap') return { info: t.info, problems }
  const copy = copySource(assembly, range, infos)
  if (!('why' in copy)) return { info: infos[copy.parts[0]!.source]!, problems }
  return {
    info: t.info,
    problems: [
      ...problems,
      {
        code: 'rewrap.assembled',
        message: `This stretch cannot be copied untouched: ${copy.why}.`,
        fix: 'Use a master or a viewing copy.',
      },
    ],
  }
}

/** Works out all deliverables; regions that have not been measured yet are queued for the workers. */
export async function workOut(db: Db, roots: Roots, s: Situation, today = new Date()): Promise<Deliverable[]> {
  const all = drafts(s, today)
  const keys = new Set<string>()
  for (const d of all) {
    if (d.output.video) keys.add(d.picturesKey)
    if (d.output.audio) keys.add(d.soundKey)
  }
  const facts = await readFacts(db, [...keys])
  const failed = await queueMissing(
    db,
    all.flatMap((d): Missing[] => [
      ...(d.output.audio && !facts.has(d.soundKey)
        ? [{ kind: 'measure-sound' as const, key: d.soundKey, draft: d }]
        : []),
      ...(d.output.video && !facts.has(d.picturesKey)
        ? [{ kind: 'measure-pictures' as const, key: d.picturesKey, draft: d }]
        : []),
    ]),
  )

  const free = new Map<string, number>()
  const needed = new Map<string, number>()
  for (const d of all) {
    needed.set(d.outlet.root, (needed.get(d.outlet.root) ?? 0) + d.output.bytes)
    if (!free.has(d.outlet.root)) free.set(d.outlet.root, await roots.free(d.outlet.root).catch(() => 0))
  }

  const named = await Promise.all(all.map((d) => name(roots, d)))
  const doubled = new Map<number, string>()
  for (const list of collisions(named.map((n, i) => `${all[i]!.outlet.root}:${n.first}`)).values()) {
    for (const i of list) {
      const other = all[list.find((k) => k !== i)!]!
      doubled.set(i, `“${other.region.name}” for ${other.outlet.name} would get the same name`)
    }
  }

  return all.map((d, i) => {
    const { path: target, version } = named[i]!
    const source: Readings = fileReadings(d.timeline.info, d.timeline.model, 'source file')
    const unmeasured = failed.get(d.soundKey)
    const output: Output = unmeasured ? { ...d.output, problems: [...d.output.problems, unmeasured] } : d.output
    const forecast = forecastReadings(output, d.timeline.model)
    const base = { ...d.timeline.model, start: d.timeline.model.start + d.region.in }
    const sound = facts.get(d.soundKey) as RegionSound | undefined
    if (d.output.audio && sound) {
      Object.assign(
        source,
        soundReadings(sound, 0, 'measured over the region'),
        troubleReadings(sound.faults, base, 'measured over the region'),
      )
      Object.assign(
        forecast,
        soundReadings(sound, d.recipe.kind === 'rewrap' ? 0 : d.recipe.gain, 'measured, with gain'),
      )
    }
    const pictures = facts.get(d.picturesKey) as PictureFacts | undefined
    if (pictures && d.output.video) Object.assign(source, contentReadings(pictures, base, 'measured over the region'))
    const metadata = Object.entries(d.region.metadata).filter(([, v]) => v.trim() !== '')
    forecast.metadata = {
      value: metadata.map(([k]) => k),
      text: metadata.map(([k, v]) => `${k} ${v}`).join(', ') || 'none typed',
      from: 'region',
    }
    const bad = unusable(target) ?? doubled.get(i) ?? null
    forecast['file-name'] = {
      value: bad ? '' : path.posix.basename(target),
      text: bad ? `${path.posix.basename(target)}: ${bad}` : path.posix.basename(target),
      from: 'name pattern',
    }
    const left = (free.get(d.outlet.root) ?? 0) - needed.get(d.outlet.root)!
    forecast['free-room'] = {
      value: left,
      text: `${bytesText(free.get(d.outlet.root) ?? 0)} free, ${bytesText(needed.get(d.outlet.root)!)} needed by all`,
      from: d.outlet.root,
    }
    const results = judge(rulesFor(d.spec, 'before', d.output.video !== null), forecast, source, null, d.waivers).map(
      (r) => ({ ...r, fix: fixFor(r, d.recipe, d.timeline.info) }),
    )
    const pixels = d.output.video ? d.output.video.width * d.output.video.height : 0
    return {
      timelineId: d.timeline.id,
      regionId: d.region.id,
      outletId: d.outlet.id,
      title: `${d.region.name || 'Without a name'} → ${d.outlet.name}`,
      recipe: d.recipe,
      overrides: d.overrides,
      path: target,
      version,
      output,
      results,
      verdict: worstVerdict(results.map((r) => r.verdict)),
      cleared: cleared(results),
      soundPending: d.output.audio !== null && !facts.has(d.soundKey) && !unmeasured,
      pending:
        (d.output.audio !== null && !sound && !unmeasured) ||
        (d.output.video !== null && !pictures && !failed.has(d.picturesKey)),
      seconds: forecastSeconds(
        {
          recipe: d.recipe,
          region: d.region,
          timeline: { ...d.timeline.model, id: d.timeline.id, show: d.timeline.show },
        },
        pixels,
      ),
    }
  })
}

/** The name of a draft, as its pattern gives it first, and the version that is free. */
async function name(roots: Roots, d: Draft): Promise<{ first: string; path: string; version: number }> {
  const folder = d.outlet.folder.replace(/\/+$/, '')
  const make = (version: number) =>
    path.posix.join(folder, expandPattern(d.outlet.pattern, { ...d.values, version: versionLabel(version) })) +
    extensionOf(d.recipe)
  const first = make(1)
  if (unusable(first)) return { first, path: first, version: 1 }
  const free = await freePath(make, (p) => {
    try {
      return existsSync(roots.resolve(d.outlet.root, p))
    } catch {
      return false
    }
  })
  return { first, ...free }
}

/** A measure of a region that is not known yet. */
interface Missing {
  readonly kind: 'measure-sound' | 'measure-pictures'
  readonly key: string
  readonly draft: Draft
}

/**
 * Queues what is to be measured; gives what could not be, by its key. Regions are read from what the pass keeps: while
 * it is under way they wait for it. Sound of a timeline that no pass is made of is measured by itself.
 */
async function queueMissing(db: Db, missing: readonly Missing[]): Promise<Map<string, Problem>> {
  const wanted = new Map(missing.map((m) => [m.key, m]))
  const queued = await db
    .selectFrom('task')
    .select(['id', 'key', 'kind', 'state', 'problem'])
    .where('run_id', 'is', null)
    .where('kind', 'in', ['measure-sound', 'measure-pictures', 'analyse-sound'])
    .execute()
  const there = new Set(queued.filter((q) => q.state !== 'done').map((q) => q.key))
  // edges that moved on since leave regions behind that nobody asks for any more
  const stale = queued
    .filter((q) => q.state === 'ready' && q.kind !== 'analyse-sound' && !wanted.has(q.key))
    .map((q) => q.id)
  if (stale.length) await db.deleteFrom('task').where('id', 'in', stale).where('state', '=', 'ready').execute()
  const seen = await readFacts(db, [...new Set(missing.map((m) => factKeys.pictures(m.draft.timeline.fingerprint)))])
  const hearing = new Set(
    queued.filter((q) => q.kind === 'analyse-sound' && (q.state === 'ready' || q.state === 'leased')).map((q) => q.key),
  )
  const dispatch = new Dispatch(db)
  for (const [key, { kind, draft: d }] of wanted) {
    const { fingerprint, place, linking, model } = d.timeline
    if (
      there.has(key) ||
      (kind === 'measure-sound' ? hearing.has(factKeys.sound(fingerprint)) : !seen.has(factKeys.pictures(fingerprint)))
    )
      continue
    await dispatch.addBackground(
      kind,
      key,
      {
        fact: key,
        place: { ...place, fingerprint, ...(linking ? { assembled: true } : {}) },
        range: { in: d.region.in, out: d.region.out },
        ...(kind === 'measure-sound' ? { rate: model.rate, route: d.route } : {}),
      } satisfies BackgroundPayload,
      d.region.out - d.region.in,
    )
  }
  return new Map(
    queued
      .filter((q) => q.state === 'failed' && q.problem && wanted.has(q.key))
      .map((q) => [
        q.key,
        {
          ...(JSON.parse(q.problem!) as Problem),
          message: `The ${q.kind === 'measure-sound' ? 'sound' : 'pictures'} could not be measured. ${(JSON.parse(q.problem!) as Problem).message}`,
        },
      ]),
  )
}
