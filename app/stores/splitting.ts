import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import type { MakeRequest, NamedRange, OlderVersion, SplitMaker } from '../../core/split/makers/maker'
import type { Likeness, ShownTimeline } from '../../contract/timelines'
import { heardChannels } from '../lib/hearing'
import { api } from '../lib/api'
import { splitMaker } from '../../core/split/makers/registry'
import { unusableName } from '../../core/split/audit/names'
import { readValue, settled } from '../../core/split/settings'
import { regionNames } from '../../core/split/naming'
import { keyText } from '../../core/deliverable/outlet'
import type { Region } from '../../core/split/region'
import { toProblem, type Problem } from '../../core/problem'
import type { SamePictures } from '../../core/analysis/samepictures'
import { goesByPictures } from '../../core/split/makers/version'
import type { Timeline } from '../../core/timeline/model'
import { listed } from '../../core/text'
import { useEditor } from './editor'
import { useDeliverables } from './deliverables'
import { useProblems } from './problems'
import { useShelf } from './shelf'
import { useTimelines } from './timelines'

/** A region that a way to split would make. */
export interface Proposed extends NamedRange {
  /** Whether there is one of the same frames already. */
  readonly there: boolean
  readonly taken: boolean
}

interface Made {
  readonly ranges: readonly NamedRange[]
  readonly lost: readonly { readonly name: string; readonly why: string }[]
  readonly problem: Problem | null
}
const nothing: Made = { ranges: [], lost: [], problem: null }

/** A timeline as what regions are taken over from. */
function olderVersion(t: ShownTimeline | null, same: SamePictures | null): OlderVersion | null {
  if (!t) return null
  const { outlets } = useShelf()
  const names = new Map<string, string[]>()
  for (const d of useDeliverables().all) {
    const name = d.timelineId === t.id && outlets.find((o) => o.id === d.outletId)?.name
    if (name) names.set(d.regionId, [...(names.get(d.regionId) ?? []), name])
  }
  return { id: t.id, timeline: t.model, split: t.split, outlets: names, same }
}

/** Takes over what was set for regions of an older version alone, where they go to the same outlets. */
async function overrideAsBefore(regions: readonly Region[]): Promise<void> {
  const { all } = useDeliverables()
  const timelineId = useEditor().id
  const before = new Map(all.map((d) => [keyText(d), d.overrides]))
  for (const { id: regionId, from } of regions)
    for (const { id: outletId } of from ? useShelf().outlets : []) {
      const values = before.get(keyText({ ...from!, outletId })) ?? {}
      const keys = [{ timelineId, regionId, outletId }]
      if (Object.keys(values).length) await useDeliverables().decide({ action: 'override', keys, values, reset: [] })
    }
}

/** Sends regions to the outlets that a list named for them; says which there are none of. */
async function sendTo(wanted: readonly (readonly [regionId: string, outlets: readonly string[]])[]): Promise<void> {
  const { outlets } = useShelf()
  const named = (name: string) => outlets.find((o) => o.name.toLowerCase() === name.toLowerCase())
  const unknown = [...new Set(wanted.flatMap(([, names]) => names.filter((n) => !named(n))))]
  if (unknown.length)
    useProblems().say({
      code: 'split.outlet',
      message: `There is no outlet called ${listed(unknown.map((n) => `“${n}”`))}.`,
      fix: 'The regions are made; choose their outlets at the station.',
    })
  const timelineId = useEditor().id
  const keys = wanted.flatMap(([regionId, names]) =>
    names.flatMap((n) => (named(n) ? [{ timelineId, regionId, outletId: named(n)!.id }] : [])),
  )
  if (keys.length) await useDeliverables().setChosen(keys, true)
}

/** How the timeline on the desk is to be split: the way that was chosen, what is set of it, what it would make. */
export const useSplitting = defineStore('splitting', {
  state: () => ({
    open: false,
    way: 'shots',
    /** What was set, by way and setting; what cannot be read of it, as it was typed. */
    values: {} as Record<string, Record<string, number | string>>,
    wrong: null as { readonly key: string; readonly problem: Problem } | null,
    /** Patterns of names, by way, where they were typed. */
    patterns: {} as Record<string, string>,
    list: null as { readonly text: string; readonly fileName: string } | null,
    /** Which pictures are which of an older timeline, where that was asked; of which two. */
    likeness: null as (Likeness & { readonly of: string }) | null,
    /** The timeline whose regions are taken over, where it was chosen by hand. */
    olderId: '',
    /** Whether the regions there are stay. */
    keep: true,
    /** In and out of proposals that were taken out or put in by hand. */
    turned: [] as string[],
  }),
  getters: {
    maker: (s): SplitMaker => splitMaker(s.way),
    set(): Readonly<Record<string, number | string>> {
      const { model } = useEditor()
      return model ? settled(this.maker.settings ?? {}, this.values[this.way] ?? {}, model) : {}
    },
    pattern(): string {
      return this.patterns[this.way] ?? this.maker.names ?? '{name}'
    },
    /** Timelines whose regions could be taken over: those of the same show first, the newest first. */
    olders(): ShownTimeline[] {
      const { all, current } = useTimelines()
      const others = all.filter((t) => t.id !== current?.id && t.split.regions.length > 0)
      const near = (t: ShownTimeline) => (t.show === current?.show ? 1 : 0)
      return [...others].reverse().sort((a, b) => near(b) - near(a))
    },
    older(): ShownTimeline | null {
      return this.olders.find((t) => t.id === this.olderId) ?? this.olders[0] ?? null
    },
    /** The two timelines whose pictures have to be held against each other; none where lists tell more. */
    compared(): { readonly older: string; readonly newer: string; readonly of: string } | null {
      const { older } = this
      const { current } = useTimelines()
      if (!this.open || this.way !== 'version' || !older || !current) return null
      if (!goesByPictures(older.model, current.model)) return null
      const content = (t: ShownTimeline) => t.fingerprint.content
      return { older: older.id, newer: current.id, of: `${content(older)} ${content(current)}` }
    },
    /** Which pictures of them are the same; null while that is not known. */
    same(): SamePictures | null {
      const { likeness, compared } = this
      return likeness && likeness.of === compared?.of ? likeness.same : null
    },
    made(): Made {
      const desk = useEditor()
      const { current } = useTimelines()
      if (!desk.model) return nothing
      const { list } = this
      const { same } = this
      const older = () => olderVersion(this.older, same)
      // asked for when a way looks at it: what it does not go by makes nothing anew
      const request: MakeRequest = {
        timeline: desk.model as Timeline,
        get shots() {
          return desk.shots
        },
        get playhead() {
          return desk.playhead
        },
        get marked() {
          return desk.marked
        },
        get chosen() {
          return desk.shotsSelected
        },
        get markers() {
          return desk.split.markers
        },
        get region() {
          return desk.current
        },
        get older() {
          return older()
        },
        ...{ pictures: current?.analysis.pictures ?? null, sound: current?.analysis.sound ?? null, list },
        mute: current !== null && heardChannels(current).length === 0,
      }
      try {
        const ranges = markRaw([...this.maker.make(request, this.set)])
        return { ranges, lost: this.maker.lost?.(request) ?? [], problem: null }
      } catch (e) {
        return { ...nothing, problem: toProblem(e) }
      }
    },
    proposals(): readonly Proposed[] {
      const desk = useEditor()
      if (!desk.model) return []
      const { ranges } = this.made
      const markers = [...desk.split.markers].sort((a, b) => a.at - b.at)
      const names = regionNames(this.pattern, ranges, { timeline: desk.model, shots: desk.shots, markers })
      const there = new Set(desk.regions.map((r) => `${r.in}-${r.out}`))
      const turned = new Set(this.turned)
      return ranges.map((r, i) => {
        const key = `${r.in}-${r.out}`
        const same = this.keep && there.has(key)
        return { ...r, name: names[i]!, there: same, taken: same === turned.has(key) }
      })
    },
    taken(): readonly Proposed[] {
      return this.proposals.filter((p) => p.taken)
    },
    /** What is against the name of one that would be made; what two of them share is the audit's. */
    refused(): Problem | null {
      for (const p of this.taken) {
        const problem = unusableName({ ...p, id: '', metadata: {} })
        if (problem) return { ...problem, fix: 'Name it otherwise, or leave it out.' }
      }
      return null
    },
  },
  actions: {
    /** Asks which pictures are which, where that is not known; true while it is still being found out. */
    async compare(again = false): Promise<boolean> {
      const { compared } = this
      if (!compared || this.same) return false
      const { newer: id, older, of } = compared
      if (this.likeness?.of !== of) this.likeness = null
      const made = await api('GET timelines/:id/likeness', {
        params: { id },
        query: { older, ...(again ? { again: '1' } : {}) },
      })
      if (this.compared?.of === of) this.likeness = markRaw({ ...made, of })
      return made.state === 'waiting' || made.state === 'working'
    },
    /** Opens or leaves it. What was put in the place of regions once is beside them again the next time. */
    toggle() {
      this.open = !this.open
      this.keep = true
      this.turned = []
    },
    choose(way: string) {
      this.way = way
      this.turned = []
      this.wrong = null
    },
    type(key: string, text: string) {
      const setting = this.maker.settings?.[key]
      const { model } = useEditor()
      if (!setting || !model) return
      try {
        const value = readValue(setting, text, model)
        this.values[this.way] = { ...this.values[this.way], [key]: value }
        this.wrong = null
      } catch (e) {
        this.wrong = { key, problem: toProblem(e) }
      }
    },
    turn(p: Proposed) {
      const key = `${p.in}-${p.out}`
      this.turned = this.turned.includes(key) ? this.turned.filter((k) => k !== key) : [...this.turned, key]
    },
    /** Makes what is proposed, as one step; what cannot be read keeps it from being made. */
    make() {
      if (this.taken.length === 0 || this.wrong || this.refused) return
      const ranges = this.taken
      const added = useEditor().make(ranges, this.keep)
      void sendTo(added.map((r, i) => [r.id, ranges[i]!.outlets ?? []] as const)).then(() => overrideAsBefore(added))
      this.toggle()
    },
  },
})
