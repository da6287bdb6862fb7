import type { MediaInfo } from '../media/media'
import type { Problem } from '../problem'
import { planSteps } from '../job/steps'
import type { Abilities, Output } from '../recipe/output'
import type { Overrides, Recipe, Step } from '../recipe/recipe'
import { recipeKind, withOverrides } from '../recipe/registry'
import { routeOf, sourceChannels } from '../sound/layout'
import type { Waiver } from '../spec/judge'
import type { Spec } from '../spec/spec'
import { ordered, type Region } from '../split/region'
import type { SplitTimeline } from '../split/timeline'
import { assemblyProblems, copySource } from '../timeline/assemble'
import type { FrameRange } from '../time/range'
import { keyText, type DeliverableChoice, type DeliverableKey, type Outlet } from './outlet'

/** One region for one outlet, worked out from settings and headers alone: nothing of it was measured. */
export interface Draft {
  readonly key: DeliverableKey
  readonly timeline: SplitTimeline
  /** Its range ends with the timeline. */
  readonly region: Region
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
}

/** Everything that drafts are made from. */
export interface Situation {
  readonly timelines: readonly SplitTimeline[]
  readonly outlets: readonly Outlet[]
  readonly specs: readonly Spec[]
  readonly choices: readonly DeliverableChoice[]
  readonly abilities: Abilities
}

/** A draft of every region for every outlet it was chosen for, in the order of timelines, regions and outlets. */
export function makeDrafts(s: Situation): Draft[] {
  const specs = new Map(s.specs.map((x) => [x.id, x]))
  const chosen = new Map(s.choices.filter((c) => c.chosen).map((c) => [keyText(c), c]))
  const out: Draft[] = []
  for (const timeline of s.timelines) {
    const list = ordered(timeline.split.regions)
    const digits = Math.max(2, String(list.length).length)
    list.forEach((region, i) => {
      const number = String(i + 1).padStart(digits, '0')
      for (const outlet of s.outlets) {
        const choice = chosen.get(`${timeline.id}/${region.id}/${outlet.id}`)
        const spec = specs.get(outlet.spec)
        if (choice && spec) out.push(makeDraft(timeline, region, number, outlet, spec, choice, s.abilities))
      }
    })
  }
  return out
}

export function makeDraft(
  timeline: SplitTimeline,
  region: Region,
  number: string,
  outlet: Outlet,
  spec: Spec,
  choice: DeliverableChoice,
  abilities: Abilities,
): Draft {
  const recipe = withOverrides(outlet.recipe, choice.overrides)
  const kind = recipeKind(recipe)
  const range = { in: region.in, out: Math.min(region.out, timeline.model.length) }
  const { info, problems } = sourceOf(timeline, kind.copies, range)
  const described = kind.output({ settings: recipe, source: info, timeline: timeline.model, range, abilities })
  const output = { ...described, problems: [...described.problems, ...problems] }
  const channels = sourceChannels(info)
  return {
    key: { timelineId: timeline.id, regionId: region.id, outletId: outlet.id },
    timeline,
    region: { ...region, ...range },
    number,
    outlet,
    spec,
    recipe,
    overrides: choice.overrides,
    waivers: choice.waivers,
    output,
    steps: planSteps({ recipe, output, source: info, range, rate: timeline.model.rate }),
    // a copy carries all channels, whatever the settings say
    route: routeOf(kind.copies ? 'all' : recipe.channels, channels),
  }
}

/** What a range of a timeline is made from, and what is not right with it. */
function sourceOf(t: SplitTimeline, copies: boolean, range: FrameRange): { info: MediaInfo; problems: Problem[] } {
  if (!t.linking) return { info: t.info, problems: [] }
  const { assembly, infos, sources } = t.linking
  const problems = assemblyProblems(t.model, sources, range)
  if (!copies) return { info: t.info, problems }
  const copy = copySource(assembly, range, infos)
  if (!('why' in copy)) return { info: infos[copy.parts[0]!.source]!, problems }
  const why = {
    code: 'rewrap.assembled',
    message: `This stretch cannot be copied untouched: ${copy.why}.`,
    fix: 'Use a master or a viewing copy.',
  }
  return { info: t.info, problems: [...problems, why] }
}
