import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import type { NamedRange, SplitMaker } from '../../core/split/makers/maker'
import { splitMaker } from '../../core/split/makers/registry'
import { readValue, settled } from '../../core/split/settings'
import { regionNames } from '../../core/split/naming'
import { toProblem, type Problem } from '../../core/problem'
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
  readonly problem: Problem | null
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
    made(): Made {
      const desk = useEditor()
      const { current } = useTimelines()
      if (!desk.model) return { ranges: [], problem: null }
      const request = {
        ...desk.asked,
        ...{ marked: desk.marked, chosen: desk.shotsSelected, markers: desk.split.markers, region: desk.current },
        ...{ pictures: current?.analysis.pictures ?? null, sound: current?.analysis.sound ?? null, list: this.list },
        mute: current?.info.audio.length === 0,
      }
      try {
        return { ranges: markRaw([...this.maker.make(request, this.set)]), problem: null }
      } catch (e) {
        return { ranges: [], problem: toProblem(e) }
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
  },
  actions: {
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
      if (this.taken.length === 0 || this.wrong) return
      const ranges = this.taken
      const added = useEditor().make(ranges, this.keep)
      void sendTo(added.map((r, i) => [r.id, ranges[i]!.outlets ?? []] as const))
      this.toggle()
    },
  },
})
