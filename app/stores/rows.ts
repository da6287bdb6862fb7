import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import type { DeliverableSummary } from '../../contract/deliverables'
import { namesBySpelling, refusedName } from '../../core/split/audit/names'
import { changeNamed } from '../../core/split/changes/registry'
import type { RegionChange } from '../../core/split/changes/change'
import type { Finding } from '../../core/split/audit/finding'
import type { KindOfRegion } from '../../core/split/kinds'
import type { Region } from '../../core/split/region'
import { readValue, settled } from '../../core/split/settings'
import { worstVerdict, type Verdict } from '../../core/spec/judge'
import { fieldsAsked } from '../../core/spec/spec'
import { toProblem, type Problem } from '../../core/problem'
import { useAudit } from './audit'
import { useDeliverables } from './deliverables'
import { useEditor } from './editor'
import { useShelf } from './shelf'

/** A region as the table shows it: with its number among all, where it goes, and what is wrong with it. */
export interface Row {
  readonly region: Region
  readonly no: number
  readonly goes: readonly DeliverableSummary[]
  readonly verdict: Verdict
  readonly faults: readonly Finding[]
}

const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })
/** What rows can be put in order by; papers by their names besides. */
const orders: Readonly<Record<string, (a: Row, b: Row) => number>> = {
  no: (a, b) => a.no - b.no,
  name: (a, b) => collator.compare(a.region.name, b.region.name),
  kind: (a, b) => collator.compare(a.region.kind ?? '', b.region.kind ?? ''),
  length: (a, b) => a.region.out - a.region.in - (b.region.out - b.region.in),
  outlets: (a, b) => a.goes.length - b.goes.length,
  faults: (a, b) => a.faults.length - b.faults.length,
}
const byPaper = (field: string) => (a: Row, b: Row) =>
  collator.compare(a.region.metadata[field] ?? '', b.region.metadata[field] ?? '')

/** What a change comes to that would give a region a name it is not to have. */
function refusedIn(all: readonly Region[], changed: ReadonlyMap<string, Region>) {
  const now = all.map((r) => changed.get(r.id) ?? r)
  const bySpelling = namesBySpelling(now)
  const named = all.flatMap((r) => ((changed.get(r.id) ?? r).name === r.name ? [] : [changed.get(r.id)!]))
  for (const r of named) {
    const problem = refusedName(r, bySpelling)
    if (problem) return { changed: new Map<string, Region>(), problem }
  }
  return null
}

/** Regions as a table: which of them are shown, in which order, and what is to be changed of several at once. */
export const useRows = defineStore('rows', {
  state: () => ({
    text: '',
    /** An outlet's id, `none` for regions that go nowhere, or nothing. */
    outlet: '',
    /** A kind of region, `none`, or nothing. */
    kind: '' as KindOfRegion | 'none' | '',
    verdict: '' as Verdict | '',
    /** A kind of fault, `any`, or nothing. */
    fault: '' as Finding['kind'] | 'any' | '',
    order: 'no',
    descending: false,
    change: '',
    values: {} as Record<string, Record<string, number | string>>,
    wrong: null as { readonly key: string; readonly problem: Problem } | null,
  }),
  getters: {
    all(): Row[] {
      const desk = useEditor()
      const goes = new Map<string, DeliverableSummary[]>()
      for (const d of useDeliverables().ofTimeline) goes.set(d.regionId, [...(goes.get(d.regionId) ?? []), d])
      const faults = new Map<string, Finding[]>()
      for (const f of useAudit().findings) for (const id of f.regions) faults.set(id, [...(faults.get(id) ?? []), f])
      return desk.regions.map((region, i) => {
        const own = goes.get(region.id) ?? []
        const verdict = worstVerdict(own.map((d) => d.verdict))
        return markRaw({ region, no: i + 1, goes: own, verdict, faults: faults.get(region.id) ?? [] })
      })
    },
    /** Fields of papers that any region has, or that an outlet of theirs asks for. */
    papers(): string[] {
      const found = new Set(useEditor().regions.flatMap((r) => Object.keys(r.metadata)))
      const { outlets, specs } = useShelf()
      const asked = new Set(useDeliverables().ofTimeline.map((d) => d.outletId))
      for (const o of outlets.filter((x) => asked.has(x.id)))
        for (const f of fieldsAsked(specs.find((s) => s.id === o.spec))) found.add(f)
      found.delete('production number')
      return ['production number', ...[...found].sort(collator.compare)]
    },
    filtered: (s): boolean =>
      s.text.trim() !== '' || s.outlet !== '' || s.kind !== '' || s.verdict !== '' || s.fault !== '',
    shown(): Row[] {
      const text = this.text.trim().toLowerCase()
      const { outlet, kind, verdict, fault } = this
      const list = this.all.filter(
        (r) =>
          (text === '' ||
            [r.region.name, ...Object.values(r.region.metadata)].join('\n').toLowerCase().includes(text)) &&
          (outlet === '' || (outlet === 'none' ? r.goes.length === 0 : r.goes.some((d) => d.outletId === outlet))) &&
          (kind === '' || (r.region.kind ?? 'none') === kind) &&
          (verdict === '' || r.goes.some((d) => d.verdict === verdict)) &&
          (fault === '' || r.faults.some((f) => fault === 'any' || f.kind === fault)),
      )
      if (this.order !== 'no') list.sort(orders[this.order] ?? byPaper(this.order))
      return this.descending ? list.reverse() : list
    },
    /** What a change is of: what is selected of the rows shown, or all of them. In the order of the timeline. */
    meant(): Region[] {
      const selected = new Set(useEditor().selected)
      const shown = this.shown.map((r) => r.region)
      const chosen = shown.filter((r) => selected.has(r.id))
      const ids = new Set((chosen.length > 1 ? chosen : shown).map((r) => r.id))
      return useEditor().regions.filter((r) => ids.has(r.id))
    },
    /** How many of them go to an outlet. */
    goingTo(): (outletId: string) => number {
      const meant = new Set(this.meant.map((r) => r.id))
      const counts = new Map<string, number>()
      for (const d of useDeliverables().ofTimeline)
        if (meant.has(d.regionId)) counts.set(d.outletId, (counts.get(d.outletId) ?? 0) + 1)
      return (outletId) => counts.get(outletId) ?? 0
    },
    changing: (s): RegionChange | null => (s.change ? changeNamed(s.change) : null),
    set(): Readonly<Record<string, number | string>> {
      const { model } = useEditor()
      return model && this.changing ? settled(this.changing.settings, this.values[this.change] ?? {}, model) : {}
    },
    /** Regions as the change in hand would make them, by id; only those that it changes. */
    changed(): Map<string, Region> {
      return this.outcome.changed
    },
    /** What the change in hand comes to, or why it cannot be done. */
    outcome(): { readonly changed: Map<string, Region>; readonly problem: Problem | null } {
      const desk = useEditor()
      if (!this.changing || !desk.model || this.wrong) return { changed: new Map(), problem: null }
      const { meant } = this
      const markers = [...desk.split.markers].sort((a, b) => a.at - b.at)
      const context = { timeline: desk.model, shots: desk.shots, markers, all: desk.regions }
      const other = (a: Region, b: Region) => JSON.stringify(a) !== JSON.stringify(b)
      try {
        const made = this.changing.apply(meant, this.set, context)
        const changed = new Map(made.flatMap((r, i) => (other(r, meant[i]!) ? [[r.id, r] as const] : [])))
        return refusedIn(desk.regions, changed) ?? { changed, problem: null }
      } catch (e) {
        return { changed: new Map(), problem: toProblem(e) }
      }
    },
  },
  actions: {
    sortBy(order: string) {
      if (this.order === order) this.descending = !this.descending
      else Object.assign(this, { order, descending: false })
    },
    showAll() {
      Object.assign(this, { text: '', outlet: '', kind: '', verdict: '', fault: '' })
    },
    type(key: string, text: string) {
      const { model } = useEditor()
      const setting = this.changing?.settings[key]
      if (!model || !setting) return
      try {
        this.values[this.change] = { ...this.values[this.change], [key]: readValue(setting, text, model) }
        this.wrong = null
      } catch (e) {
        this.wrong = { key, problem: toProblem(e) }
      }
    },
    choose(change: string) {
      this.change = change
      this.wrong = null
    },
    /** Sends them to an outlet, or no longer. */
    send(outletId: string, chosen: boolean) {
      const timelineId = useEditor().id
      const keys = this.meant.map((r) => ({ timelineId, regionId: r.id, outletId }))
      return useDeliverables().setChosen(keys, chosen)
    },
    /** Does the change in hand, as one step. */
    apply() {
      if (this.changed.size === 0) return
      useEditor().changeRegions(this.changing!.label, this.changed)
      this.change = ''
    },
  },
})
