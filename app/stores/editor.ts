import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import { namesBySpelling, refusedName } from '../../core/split/audit/names'
import * as edit from '../../core/split/edit'
import { regionKinds, type KindOfRegion } from '../../core/split/kinds'
import { stretchesOf } from '../../core/split/shots'
import type { MakeRequest, NamedRange } from '../../core/split/makers/maker'
import { rangesBy } from '../../core/split/makers/registry'
import { redo, startHistory, push, undo, type History } from '../../core/split/history'
import { emptySplit, ordered, sameSplit, type Region, type Split } from '../../core/split/region'
import type { FoundCut } from '../../core/analysis/cuts'
import { plural } from '../../core/text'
import { lastAtOrBefore } from '../../core/time/order'
import { cutsOf, type Shot, type Timeline } from '../../core/timeline/model'
import { shotsWithFound } from '../../core/timeline/comparecuts'
import type { FrameRange } from '../../core/time/range'
import { countsSamples, nominalRate } from '../../core/time/rate'
import { fail, toProblem, type Problem } from '../../core/problem'
import { api } from '../lib/api'
import { forgetUnsaved, keepClashes, keepUnsaved, leftClashes, leftUnsaved, type Pending } from '../lib/unsaved'
import type { ShownTimeline } from '../../contract/timelines'
import { foreignPatch, mergeSplits, takeMine, unsettled, type Clash } from '../../core/split/merge'
import { applyPatch, diffSplit } from '../../core/split/patch'
import { useProblems } from './problems'
import { useTimelines } from './timelines'
import { useView } from './view'

const newId = () => crypto.randomUUID()

/** Splits of timelines that were taken off the desk before the server had them. */
const leftBehind = new Map<string, Split>()

/** Sends what changed of a split; the version it made, or null where another window was quicker. */
async function send(id: string, kept: Split, split: Split, version: number): Promise<number | null> {
  try {
    const body = { patch: diffSplit(kept, split), version }
    return (await api('PATCH timelines/:id/split', { params: { id }, body })).version
  } catch (e) {
    if (toProblem(e).code === 'split.moved-on') return null
    throw e
  }
}

/** A timeline as the server has it now, with a newer split than that of a version. */
async function newer(id: string, version: number): Promise<ShownTimeline> {
  await useTimelines().load()
  const t = useTimelines().all.find((x) => x.id === id)
  if (!t) fail('timeline.unknown', 'This timeline is no longer here.', id, 'Its last change could not be kept.')
  return t.splitVersion > version ? t : fail('split.moved-on', 'A change could not be saved yet.', t.name)
}

/** The desk in hand: the split with its history, the playhead, what is marked and selected. */
export const useEditor = defineStore('editor', {
  state: () => ({
    id: '',
    model: null as Timeline | null,
    /** Cuts found in the pictures, as far as the pass has come. */
    found: [] as readonly FoundCut[],
    /** Replaced at every step, never changed; so are the model and the cuts. */
    history: markRaw(startHistory<Split>(emptySplit)) as History<Split>,
    version: 0,
    saving: false,
    unsaved: false,
    /** The split as the server has it at this version. */
    kept: markRaw(emptySplit) as Split,
    /** The split on its way to the server. */
    sent: null as Split | null,
    /** What was changed here and elsewhere to different ends: what is here is theirs. */
    clashed: markRaw([]) as readonly Clash[],
    playhead: 0,
    markIn: null as number | null,
    markOut: null as number | null,
    selected: [] as string[],
    anchor: null as string | null,
    shotsSelected: [] as number[],
    /** Region whose name is being typed. */
    naming: null as string | null,
    /** An edge is being dragged: it is saved and audited when it is dropped. */
    dragging: false,
  }),
  getters: {
    split: (s): Split => s.history.present,
    regions(): Region[] {
      return ordered(this.split.regions)
    },
    /** Clashes that nobody has settled yet. */
    clashes(): readonly Clash[] {
      return unsettled(this.split, this.clashed)
    },
    shots(): Shot[] {
      if (this.alone) return stretchesOf(this.split.markers, this.length)
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
      return this.marked !== null && this.marked.in < last && !this.alone && this.cuts.includes(last)
    },
    current(): Region | null {
      return this.regions.find((r) => r.id === this.selected.at(-1)) ?? null
    },
    /** What ways to split work from. */
    asked(): MakeRequest {
      return { timeline: this.model as Timeline, shots: this.shots, playhead: this.playhead }
    },
    second: (s) => (s.model ? nominalRate(s.model.rate) : 25),
    /** Whether it is sound alone, counted in samples. */
    alone: (s) => s.model !== null && countsSamples(s.model.rate),
    /** What one step of the playhead is: a frame, or a hundredth of a second of sound alone. */
    nudge(): number {
      return this.alone ? Math.round(this.second / 100) : 1
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
      return this.alone ? this.second / 25 : 1
    },
  },
  actions: {
    /** Puts a timeline on the desk, unless it is there already and has unsaved changes. */
    lay(t: ShownTimeline) {
      if (t.id === this.id) {
        this.model = markRaw(t.model)
        this.found = markRaw(t.analysis?.pictures?.cuts ?? [])
        if (t.splitVersion > this.version && !this.unsaved && !this.saving && !this.dragging) this.takeUp(t, null)
        return
      }
      if (this.saving) leftBehind.set(this.id, this.split)
      this.keepHistory()
      const kept = localStorage.getItem(`velvet.desk.${t.id}`)
      const place = JSON.parse(kept ?? '{}') as { playhead?: number; top?: number; zoom?: number }
      const playhead = place.playhead ?? t.split.regions[1]?.in ?? 0
      const past = sessionStorage.getItem(`velvet.history.${t.id}`)
      const history = past ? (JSON.parse(past) as { version: number; history: History<Split> }) : null
      Object.assign(this, {
        id: t.id,
        model: markRaw(t.model),
        found: markRaw(t.analysis?.pictures?.cuts ?? []),
        history: markRaw(history?.version === t.splitVersion ? history.history : startHistory(t.split)),
        version: t.splitVersion,
        kept: markRaw(t.split),
        saving: false,
        unsaved: false,
        sent: null,
        clashed: markRaw(leftClashes(t.id)),
        selected: [],
        shotsSelected: [],
        markIn: null,
        markOut: null,
        dragging: false,
        playhead,
      })
      const { top, zoom } = place
      useView().lay(this.length, this.grain, top === undefined || zoom === undefined ? null : { top, zoom })
      const left = leftUnsaved(t.id, t.split, t.splitVersion)
      if (left) this.takeLeft(left, t)
      const under = this.regions.find((r) => playhead >= r.in && playhead < r.out)
      if (under) this.select(under.id)
    },
    /** Takes up what a reload left unsaved: the last change is a step, and is saved. */
    takeLeft({ kept, sent, split: left }: Pending, t: ShownTimeline) {
      const { split, clashes } = mergeSplits(kept, left, foreignPatch(kept, t.split, sent))
      this.clash(clashes)
      if (sameSplit(split, t.split)) return forgetUnsaved(t.id)
      this.sent = sent && markRaw(sent)
      if (!sameSplit(edit.withLooked(split, t.split), t.split)) return this.step('Last change', split)
      // what was looked at is no step
      this.history = markRaw({ ...this.history, present: split })
      void this.save()
    },
    /**
     * Takes up what others changed of the split: what was changed here since stays, and can be undone as before. What
     * both changed is theirs until somebody says otherwise.
     */
    takeUp(t: ShownTimeline, sent: Split | null) {
      const patch = foreignPatch(this.kept, t.split, sent)
      const merged = (split: Split) => mergeSplits(this.kept, split, patch)
      const { split, clashes } = merged(this.split)
      const steps = (list: History<Split>['past']) => list.map((s) => ({ ...s, value: merged(s.value).split }))
      // what did not change stays the same objects, so that thousands are not compared at each edit
      const kept = applyPatch(this.kept, diffSplit(this.kept, t.split))
      const present = sameSplit(split, kept) ? kept : split
      this.history = markRaw({ past: steps(this.history.past), present, future: steps(this.history.future) })
      this.kept = markRaw(kept)
      this.version = t.splitVersion
      this.clash(clashes)
    },
    /** Notes clashes, which stay until they are settled, over a reload as well. */
    clash(more: readonly Clash[]) {
      const again = new Set(more.map((c) => c.id))
      this.clashed = markRaw([...this.clashes.filter((c) => !again.has(c.id)), ...more])
      keepClashes(this.id, this.clashed)
    },
    /** Settles clashes: with what was changed here, as a step, or with what stands. */
    settle(list: readonly Clash[], mine: boolean) {
      const settled = new Set(list.map((c) => c.id))
      this.clashed = markRaw(this.clashed.filter((c) => !settled.has(c.id)))
      this.clash([])
      if (mine) this.step('took what was changed here', list.reduce(takeMine, this.split))
    },
    keepPlace() {
      const { top, zoom, unplaced } = useView()
      // what nobody chose fills the height the next time as well
      const place = { playhead: this.playhead, ...(unplaced ? {} : { top, zoom }) }
      if (this.id) localStorage.setItem(`velvet.desk.${this.id}`, JSON.stringify(place))
    },
    /** Takes a step in the history and saves it; while something is dragged, when it is dropped. */
    step(label: string, split: Split, dragging = false) {
      const next = push(this.history, label, split, dragging && this.dragging)
      if (next === this.history) return
      this.history = markRaw(next)
      this.dragging = dragging
      if (!dragging) void this.save()
    },
    /** What was dragged is dropped: the next drag is a step of its own. */
    drop() {
      if (!this.dragging) return
      this.dragging = false
      void this.save()
    },
    undo() {
      this.turnTo(undo(this.history))
    },
    redo() {
      this.turnTo(redo(this.history))
    },
    /** Goes to another state of the split; what was looked at is no step, and stays. */
    turnTo(history: History<Split>) {
      if (history === this.history) return
      this.dragging = false
      this.history = markRaw({ ...history, present: edit.withLooked(history.present, this.split) })
      void this.save()
    },
    /** Notes that the ends of regions were looked at, or that they were not after all. */
    lookAt(ids: readonly string[], right: boolean) {
      this.history = markRaw({ ...this.history, present: edit.lookAt(this.split, ids, right) })
      void this.save()
    },
    /** So that a reload before the server has it loses nothing. */
    keepUnsaved() {
      keepUnsaved(this.id, this.version, this)
    },
    async save() {
      this.unsaved = true
      this.keepUnsaved()
      if (this.saving) return
      this.saving = true
      const id = this.id
      const mine = () => this.id === id
      // what is saved belongs to this timeline, whatever is laid on the desk meanwhile
      let { version, kept } = this as { version: number; kept: Split }
      let before: Split | null = null
      try {
        while (mine() ? this.unsaved : leftBehind.has(id)) {
          const sending: Split = mine() ? this.split : leftBehind.get(id)!
          leftBehind.delete(id)
          if (mine()) {
            this.unsaved = false
            before = this.sent
            this.sent = markRaw(sending)
            this.keepUnsaved()
          }
          const made = await send(id, kept, sending, version)
          if (made !== null) {
            version = made
            kept = markRaw(sending)
            if (mine()) Object.assign(this, { version, kept })
            continue
          }
          // another window was quicker, or what was on its way before a reload came late
          const t = await newer(id, version)
          if (mine()) {
            this.takeUp(t, before)
            this.unsaved = !sameSplit(this.split, t.split)
          } else {
            const own = leftBehind.get(id) ?? sending
            const { split, clashes } = mergeSplits(kept, own, foreignPatch(kept, t.split, before))
            keepClashes(id, [...leftClashes(id), ...clashes])
            if (!sameSplit(split, t.split)) leftBehind.set(id, split)
          }
          version = t.splitVersion
          kept = mine() ? this.kept : t.split
        }
        forgetUnsaved(id)
      } catch (e) {
        useProblems().say(toProblem(e))
        // a change that could not be saved stays on the desk and is tried again with the next one, or in a while
        setTimeout(() => void (mine() && this.save()), 3000)
      } finally {
        if (mine()) this.saving = false
      }
    },
    /**
     * So that undo reaches back over a reload: as far as what the server has, since the rest is taken up as unsaved.
     * Written when the desk is left, not with every edit: it is megabytes where there are thousands of regions.
     */
    keepHistory() {
      const { past, present, future } = this.history
      // what was looked at since is no step
      const same = present === this.kept || sameSplit(edit.withLooked(present, this.kept), this.kept)
      const at = same ? past.length : past.findLastIndex((step) => step.value === this.kept)
      if (!this.id || at < 0) return
      const ahead = at === past.length ? future : []
      // fewer steps, when the browser's room is full
      for (let n = 30; n > 0; n >>= 1)
        try {
          const history = { past: past.slice(0, at).slice(-n), present: this.kept, future: ahead.slice(0, n) }
          sessionStorage.setItem(`velvet.history.${this.id}`, JSON.stringify({ version: this.version, history }))
          return
        } catch {
          sessionStorage.removeItem(`velvet.history.${this.id}`)
        }
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
      this.step('made a region', split)
      this.clearMarks()
      this.selected = added.map((r) => r.id)
      this.naming = added[0]?.id ?? null
    },
    makeFromShots() {
      if (this.shotsSelected.length === 0) return
      const ranges = rangesBy('shots', { ...this.asked, chosen: this.shotsSelected })
      const { split, added } = edit.addRegions(this.split, ranges, newId)
      this.step(`made ${plural(added.length, 'region')}`, split)
      this.shotsSelected = []
      this.selected = added.map((r) => r.id)
      this.naming = added[0]?.id ?? null
    },
    /** Regions of ranges that were looked at first, beside the ones there are or in their place. */
    make(ranges: readonly NamedRange[], keep: boolean): readonly Region[] {
      const { split, added } = edit.addRegions(keep ? this.split : { ...this.split, regions: [] }, ranges, newId)
      this.step(`made ${plural(added.length, 'region')}`, split)
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
      else this.step('renamed', edit.renameRegion(this.split, id, name))
    },
    setMetadata(id: string, field: string, value: string) {
      this.step(`typed ${field}`, edit.setMetadata(this.split, id, field, value))
    },
    /** Says what regions are, as outlets ask for it. */
    setKind(ids: readonly string[], kind: KindOfRegion | null) {
      this.step(kind ? `called ${regionKinds[kind].one}` : 'called nothing', edit.setKind(this.split, ids, kind))
    },
    /** Puts changed regions in the place of those there are. */
    changeRegions(label: string, changed: ReadonlyMap<string, Region>) {
      const regions = ordered(this.split.regions.map((r) => changed.get(r.id) ?? r))
      this.step(`${label}: ${plural(changed.size, 'region')}`, { ...this.split, regions })
    },
    trim(id: string, edge: 'in' | 'out', to: number, dragging = false) {
      this.step(
        edge === 'in' ? 'moved head' : 'moved tail',
        edit.moveEdge(this.split, id, edge, to, this.length),
        dragging,
      )
    },
    /** Moves an edge with all that lie at the same frame. */
    roll(id: string, edge: 'in' | 'out', to: number, dragging = false) {
      const at = this.split.regions.find((r) => r.id === id)?.[edge]
      if (at !== undefined) this.step('moved edges together', edit.rollEdges(this.split, at, to, this.length), dragging)
    },
    /** What is selected, earlier or later as it is long. */
    slip(by: number) {
      this.step('slipped', edit.slip(this.split, this.selected, by, this.length))
    },
    remove() {
      if (this.selected.length === 0) return
      this.step(`deleted ${plural(this.selected.length, 'region')}`, edit.removeRegions(this.split, this.selected))
      this.selected = []
    },
    splitHere() {
      const r =
        this.current && this.playhead > this.current.in && this.playhead < this.current.out
          ? this.current
          : this.regions.find((x) => this.playhead > x.in && this.playhead < x.out)
      if (r) this.step('split', edit.splitRegion(this.split, r.id, this.playhead, newId))
    },
    join() {
      if (this.current) this.step('joined', edit.joinWithNext(this.split, this.current.id))
    },
    tidy() {
      this.step(
        'tidied edges',
        edit.tidyEdges(this.split, this.selected.length ? this.selected : this.regions.map((r) => r.id), this.cuts, 5),
      )
    },
    chapter() {
      const at = this.split.markers.find((m) => m.at === this.playhead)
      this.step(
        at ? 'removed a chapter marker' : 'set a chapter marker',
        at
          ? edit.removeMarker(this.split, at.id)
          : edit.addMarker(this.split, this.playhead, `Chapter ${this.split.markers.length + 1}`, newId),
      )
    },
    /** Goes so many steps back, or on. */
    jump(steps: number) {
      let history = this.history
      for (let n = 0; n < Math.abs(steps); n++) history = steps < 0 ? undo(history) : redo(history)
      this.turnTo(history)
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
