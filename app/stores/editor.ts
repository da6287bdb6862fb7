import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import { namesBySpelling, refusedName } from '../../core/split/audit/names'
import * as edit from '../../core/split/edit'
import { regionKinds, type KindOfRegion } from '../../core/split/kinds'
import { stretchesOf } from '../../core/split/shots'
import type { MakeRequest, NamedRange } from '../../core/split/makers/maker'
import { rangesBy } from '../../core/split/makers/registry'
import { ordered, type Region, type Split } from '../../core/split/region'
import type { FoundCut } from '../../core/analysis/cuts'
import { plural } from '../../core/text'
import { lastAtOrBefore } from '../../core/time/order'
import { cutsOf, isSoundAlone, type Shot, type Timeline } from '../../core/timeline/model'
import { shotsWithFound } from '../../core/timeline/comparecuts'
import type { FrameRange } from '../../core/time/range'
import { countsSamples, nominalRate } from '../../core/time/rate'
import type { Problem } from '../../core/problem'
import type { ShownTimeline } from '../../contract/timelines'
import { useProblems } from './problems'
import { useSplit } from './split'
import { useView } from './view'

const newId = () => crypto.randomUUID()

/** The timeline on the desk: the playhead, what is marked and selected, and what is done to its split. */
export const useEditor = defineStore('editor', {
  state: () => ({
    model: null as Timeline | null,
    /** Cuts found in the pictures, as far as the pass has come. */
    found: [] as readonly FoundCut[],
    playhead: 0,
    markIn: null as number | null,
    markOut: null as number | null,
    selected: [] as string[],
    anchor: null as string | null,
    shotsSelected: [] as number[],
    /** Region whose name is being typed. */
    naming: null as string | null,
  }),
  getters: {
    id: (): string => useSplit().id,
    split: (): Split => useSplit().split,
    regions(): Region[] {
      return ordered(this.split.regions)
    },
    shots(): Shot[] {
      if (this.sampled) return stretchesOf(this.split.markers, this.length)
      return this.model ? shotsWithFound(this.model as Timeline, this.found) : []
    },
    cuts(): number[] {
      return cutsOf(this.shots)
    },
    length: (s) => s.model?.length ?? 0,
    marked: (s): FrameRange | null =>
      s.markIn !== null && s.markOut !== null && s.markOut > s.markIn ? { in: s.markIn, out: s.markOut } : null,
    /** Whether the marked range ends with the first frame of a shot that it is not of: the commonest sliver. */
    overCut(): boolean {
      const last = (this.marked?.out ?? 0) - 1
      return this.marked !== null && this.marked.in < last && !this.sampled && this.cuts.includes(last)
    },
    current(): Region | null {
      return this.regions.find((r) => r.id === this.selected.at(-1)) ?? null
    },
    /** What ways to split work from. */
    asked(): MakeRequest {
      return { timeline: this.model as Timeline, shots: this.shots, playhead: this.playhead }
    },
    second: (s) => (s.model ? nominalRate(s.model.rate) : 25),
    /** Whether it is sound alone. */
    alone: (s) => s.model !== null && isSoundAlone(s.model as Timeline),
    /** Whether it is a file of sound alone, which is counted in samples. */
    sampled: (s) => s.model !== null && countsSamples(s.model.rate),
    /** What one step of the playhead is: a frame, or a hundredth of a second where samples are counted. */
    nudge(): number {
      return this.sampled ? Math.round(this.second / 100) : 1
    },
    /** What is against a name for a region; null where nothing is, or where it is the one it has. */
    refused(): (id: string, name: string) => Problem | null {
      return (id, name) => {
        const region = this.split.regions.find((r) => r.id === id)
        return region && region.name !== name
          ? refusedName({ ...region, name }, namesBySpelling(this.split.regions))
          : null
      }
    },
    /** Frames that are drawn as large as one of pictures is, where samples are counted. */
    grain(): number {
      return this.sampled ? this.second / 25 : 1
    },
  },
  actions: {
    /** Puts a timeline on the desk; the one that is there stays as it is, with what is new about it. */
    lay(t: ShownTimeline) {
      const there = t.id === this.id
      this.model = markRaw(t.model)
      this.found = markRaw(t.analysis?.pictures?.cuts ?? [])
      useSplit().lay(t)
      if (there) return
      const kept = localStorage.getItem(`velvet.desk.${t.id}`)
      const place = JSON.parse(kept ?? '{}') as { playhead?: number; top?: number; zoom?: number }
      this.playhead = place.playhead ?? t.split.regions[1]?.in ?? 0
      Object.assign(this, { selected: [], shotsSelected: [], markIn: null, markOut: null })
      const { top, zoom } = place
      useView().lay(this.length, this.grain, top === undefined || zoom === undefined ? null : { top, zoom })
      const under = this.regions.find((r) => this.playhead >= r.in && this.playhead < r.out)
      if (under) this.select(under.id)
    },
    keepPlace() {
      const { top, zoom, unplaced } = useView()
      // what nobody chose fills the height the next time as well
      const place = { playhead: this.playhead, ...(unplaced ? {} : { top, zoom }) }
      if (this.id) localStorage.setItem(`velvet.desk.${this.id}`, JSON.stringify(place))
    },
    go(frame: number) {
      this.playhead = Math.max(0, Math.min(this.length - 1, Math.round(frame)))
    },
    goToCut(direction: 1 | -1) {
      const i = lastAtOrBefore(this.cuts, direction === 1 ? this.playhead : this.playhead - 1)
      this.go(this.cuts[direction === 1 ? i + 1 : i] ?? (direction === 1 ? this.length - 1 : 0))
    },
    mark(edge: 'in' | 'out') {
      // out is the first frame not included: marking on a frame takes that frame in, unless it is over a cut and
      // marked again
      if (edge === 'in') this.markIn = this.playhead
      else if (this.overCut && this.markOut === this.playhead + 1) this.markOut = this.playhead
      else this.markOut = this.playhead + 1
      if (this.markIn !== null && this.markOut !== null && this.markOut <= this.markIn)
        this[edge === 'in' ? 'markOut' : 'markIn'] = null
    },
    clearMarks() {
      this.markIn = null
      this.markOut = null
    },
    /** A region of the marked range, or of the shot under the playhead; its name is typed at once. */
    makeRegion() {
      const ranges = rangesBy('marked', { ...this.asked, marked: this.marked })
      if (ranges.length === 0) return
      const { split, added } = edit.addRegions(this.split, ranges, newId)
      useSplit().step('made a region', split)
      this.clearMarks()
      this.selected = added.map((r) => r.id)
      this.naming = added[0]?.id ?? null
    },
    makeFromShots() {
      if (this.shotsSelected.length === 0) return
      const ranges = rangesBy('shots', { ...this.asked, chosen: this.shotsSelected })
      const { split, added } = edit.addRegions(this.split, ranges, newId)
      useSplit().step(`made ${plural(added.length, 'region')}`, split)
      this.shotsSelected = []
      this.selected = added.map((r) => r.id)
      this.naming = added[0]?.id ?? null
    },
    /** Regions of ranges that were looked at first, beside the ones there are or in their place. */
    make(ranges: readonly NamedRange[], keep: boolean): readonly Region[] {
      const { split, added } = edit.addRegions(keep ? this.split : { ...this.split, regions: [] }, ranges, newId)
      useSplit().step(`made ${plural(added.length, 'region')}`, split)
      this.clearMarks()
      this.shotsSelected = []
      this.selected = added.slice(0, 1).map((r) => r.id)
      if (added[0]) this.go(added[0].in)
      return added
    },
    /** Renames a region, unless no file could have the name, or another's is the same on some systems. */
    rename(id: string, name: string) {
      if (this.split.regions.find((r) => r.id === id)?.name === name) return
      const problem = this.refused(id, name)
      if (problem) useProblems().say(problem)
      else useSplit().step('renamed', edit.renameRegion(this.split, id, name))
    },
    setMetadata(id: string, field: string, value: string) {
      useSplit().step(`typed ${field}`, edit.setMetadata(this.split, id, field, value))
    },
    /** Says what regions are, as outlets ask for it. */
    setKind(ids: readonly string[], kind: KindOfRegion | null) {
      useSplit().step(kind ? `called ${regionKinds[kind].one}` : 'called nothing', edit.setKind(this.split, ids, kind))
    },
    /** Puts changed regions in the place of those there are. */
    changeRegions(label: string, changed: ReadonlyMap<string, Region>) {
      const regions = ordered(this.split.regions.map((r) => changed.get(r.id) ?? r))
      useSplit().step(`${label}: ${plural(changed.size, 'region')}`, { ...this.split, regions })
    },
    trim(id: string, edge: 'in' | 'out', to: number, dragging = false) {
      useSplit().step(
        edge === 'in' ? 'moved head' : 'moved tail',
        edit.moveEdge(this.split, id, edge, to, this.length),
        dragging,
      )
    },
    /** Moves an edge with all that lie at the same frame. */
    roll(id: string, edge: 'in' | 'out', to: number, dragging = false) {
      const at = this.split.regions.find((r) => r.id === id)?.[edge]
      if (at !== undefined)
        useSplit().step('moved edges together', edit.rollEdges(this.split, at, to, this.length), dragging)
    },
    /** What is selected, earlier or later as it is long. */
    slip(by: number) {
      useSplit().step('slipped', edit.slip(this.split, this.selected, by, this.length))
    },
    remove() {
      if (this.selected.length === 0) return
      useSplit().step(
        `deleted ${plural(this.selected.length, 'region')}`,
        edit.removeRegions(this.split, this.selected),
      )
      this.selected = []
    },
    splitHere() {
      const r =
        this.current && this.playhead > this.current.in && this.playhead < this.current.out
          ? this.current
          : this.regions.find((x) => this.playhead > x.in && this.playhead < x.out)
      if (r) useSplit().step('split', edit.splitRegion(this.split, r.id, this.playhead, newId))
    },
    join() {
      if (this.current) useSplit().step('joined', edit.joinWithNext(this.split, this.current.id))
    },
    tidy() {
      useSplit().step(
        'tidied edges',
        edit.tidyEdges(this.split, this.selected.length ? this.selected : this.regions.map((r) => r.id), this.cuts, 5),
      )
    },
    chapter() {
      const at = this.split.markers.find((m) => m.at === this.playhead)
      useSplit().step(
        at ? 'removed a chapter marker' : 'set a chapter marker',
        at
          ? edit.removeMarker(this.split, at.id)
          : edit.addMarker(this.split, this.playhead, `Chapter ${this.split.markers.length + 1}`, newId),
      )
    },
    select(id: string, how: 'only' | 'toggle' | 'range' = 'only') {
      const ids = this.regions.map((r) => r.id)
      if (how === 'toggle')
        this.selected = this.selected.includes(id) ? this.selected.filter((x) => x !== id) : [...this.selected, id]
      else if (how === 'range' && this.anchor && ids.includes(this.anchor)) {
        const [a, b] = [ids.indexOf(this.anchor), ids.indexOf(id)].sort((x, y) => x - y)
        this.selected = ids.slice(a, b! + 1)
      } else this.selected = [id]
      if (how !== 'range') this.anchor = id
    },
  },
})
