import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import type { DeliverableSummary } from '../../contract/deliverables'
import type { Tryout, TryoutState } from '../../contract/tryouts'
import { keyText, type DeliverableKey, type Outlet } from '../../core/deliverable/outlet'
import { longestTryout } from '../../core/deliverable/tryout'
import type { Overrides, Recipe } from '../../core/recipe/recipe'
import { recipeKind, withOverrides } from '../../core/recipe/registry'
import type { Setting } from '../../core/recipe/settings'
import { nominalRate, type Frames } from '../../core/time/rate'
import { api } from '../lib/api'
import { useDeliverables } from './deliverables'
import { useEditor } from './editor'
import { useProblems } from './problems'
import { useShelf } from './shelf'

/** Settings that nothing is seen of in a stretch. */
const unseen: readonly Setting[] = ['handles', 'lineUp', 'proofSpread', 'contactSheet', 'start', 'partitions']

/** What they are called, as many as are compared at most, and the colours they are drawn in. */
export const tryNames = ['A', 'B', 'C'] as const
export const tryColours = ['crane', 'ochre', 'lilac'] as const

/** How often it is asked how far they are, ms. */
const every = 500

/** One set of settings: what it lays over its outlet's recipe, and what was made with it. */
interface Try {
  readonly values: Overrides
  readonly asked: Tryout | null
  readonly state: TryoutState | null
}

const fresh = (values: Overrides): Try => ({ values, asked: null, state: null })
const underWay = ({ state }: Try) => state?.state === 'waiting' || state?.state === 'making'

/** Settings tried on a stretch of one region, side by side. */
export const useTryouts = defineStore('tryouts', {
  state: () => ({
    open: false,
    /** What is tried, or was last. */
    key: null as DeliverableKey | null,
    in: 0 as Frames,
    out: 0 as Frames,
    tries: [] as readonly Try[],
    /** What is looked at: 0 is the timeline, from 1 on a try; and what was before. */
    shown: 0,
    before: 1,
    /** Of the stretch, from 0. */
    frame: 0 as Frames,
    difference: false,
  }),
  getters: {
    outlet: (s): Outlet | null => useShelf().outlets.find((o) => o.id === s.key?.outletId) ?? null,
    region: (s) => useEditor().regions.find((r) => r.id === s.key?.regionId) ?? null,
    recipes(): Recipe[] {
      const base = this.outlet?.recipe
      return base ? this.tries.map((t) => withOverrides(base, t.values)) : []
    },
    settings(): Setting[] {
      return this.outlet ? recipeKind(this.outlet.recipe).settings.filter((s) => !unseen.includes(s)) : []
    },
    busy: (s): boolean => s.tries.some(underWay),
    /** Of the stretch, where it was made. */
    frames: (s): Frames => s.out - s.in,
    /** Whether anything of what is set is not made yet. */
    wanting: (s): boolean => s.tries.some((t) => !t.asked || ['failed', 'gone'].includes(t.state?.state ?? '')),
  },
  actions: {
    /**
     * Begins with a deliverable as it is, and another with half its bits; what was tried of it last stays, as long as
     * it is one of those.
     */
    begin(d: DeliverableSummary) {
      const { timelineId, regionId, outletId } = d
      const desk = useEditor()
      const region = desk.regions.find((r) => r.id === regionId)
      if (!region || !desk.model) return
      const known = this.key !== null && keyText(this.key) === keyText(d)
      this.open = true
      this.key = { timelineId, regionId, outletId }
      const now = JSON.stringify(d.overrides)
      const among = this.tries.some((t) => JSON.stringify(t.values) === now)
      if (known && among && this.in >= region.in && this.out <= region.out) return
      const length = Math.min(4 * nominalRate(desk.model.rate), region.out - region.in)
      const inside = desk.playhead >= region.in && desk.playhead < region.out
      const middle = Math.round((region.in + region.out - length) / 2)
      this.in = inside ? Math.min(desk.playhead, region.out - length) : middle
      this.out = this.in + length
      const own = this.outlet ? withOverrides(this.outlet.recipe, d.overrides) : null
      const bits = own && this.settings.includes('pictureBitrate') ? Math.max(100, own.pictureBitrate >> 1) : null
      this.tries = [fresh(d.overrides), fresh({ ...d.overrides, ...(bits ? { pictureBitrate: bits } : {}) })]
      Object.assign(this, { shown: 0, before: 1, frame: 0, difference: false })
    },
    leave() {
      this.giveUpAll()
      this.open = false
    },
    giveUpAll() {
      for (const t of this.tries) if (underWay(t)) this.giveUp(t)
      this.tries = this.tries.map((t) => (underWay(t) ? fresh(t.values) : t))
    },
    giveUp({ asked }: Try) {
      if (asked?.id) void api('DELETE tryouts/:id', { params: { id: asked.id } }).catch(() => undefined)
    },
    /** Another stretch: what was made of the old one says nothing of it. */
    stretch(from: Frames, length: Frames) {
      const { region } = this
      const model = useEditor().model
      if (!region || !model) return
      const most = Math.min(longestTryout * nominalRate(model.rate), region.out - region.in)
      const frames = Math.max(1, Math.min(length, most))
      this.in = Math.max(region.in, Math.min(from, region.out - frames))
      this.out = this.in + frames
      this.giveUpAll()
      this.tries = this.tries.map((t) => fresh(t.values))
      Object.assign(this, { shown: 0, frame: 0 })
    },
    set(i: number, values: Overrides) {
      const old = this.tries[i]!
      if (underWay(old)) this.giveUp(old)
      const base = this.outlet?.recipe
      // what is the outlet's own needs no saying
      const own = Object.entries({ ...old.values, ...values }).filter(
        ([k, v]) => JSON.stringify(v) !== JSON.stringify(base?.[k as Setting]),
      )
      this.tries = this.tries.map((t, k) => (k === i ? fresh(Object.fromEntries(own)) : t))
      if (this.shown === i + 1) this.shown = 0
    },
    add() {
      if (this.tries.length < tryNames.length) this.tries = [...this.tries, fresh(this.tries.at(-1)!.values)]
    },
    remove(i: number) {
      const old = this.tries[i]!
      if (underWay(old)) this.giveUp(old)
      this.tries = this.tries.filter((_, k) => k !== i)
      Object.assign(this, { shown: 0, before: 1 })
    },
    /** Has made what is not made yet, and follows it until it is. */
    async make() {
      const { key, in: from, out } = this
      if (!key || this.busy) return
      await useProblems().attempt(async () => {
        for (let i = 0; i < this.tries.length; i++) {
          const { values, asked, state } = this.tries[i]!
          if (asked && state && !['failed', 'gone'].includes(state.state)) continue
          const answer = await api('POST tryouts', { body: { ...key, in: from, out, values } })
          if (this.in !== from || this.out !== out) return
          this.put(i, values, { asked: markRaw(answer), state: null })
        }
        await this.look()
      })
      while (this.open && this.key === key && this.busy) {
        await new Promise((r) => setTimeout(r, every))
        if (!(await useProblems().attempt(() => this.look()))) return
      }
    },
    /** Notes something of a try, unless it was changed meanwhile. */
    put(i: number, values: Overrides, what: Partial<Try>) {
      this.tries = this.tries.map((t, k) => (k === i && t.values === values ? { ...t, ...what } : t))
    },
    async look() {
      for (const [i, t] of this.tries.entries()) {
        if (!t.asked?.id || (t.state && !underWay(t))) continue
        const state = markRaw(await api('GET tryouts/:id', { params: { id: t.asked.id } }))
        const other = this.tries[i]?.asked?.id !== t.asked.id
        if (other) continue
        this.put(i, this.tries[i]!.values, { state })
        if (state.state === 'made' && this.shown === 0) this.show(i + 1)
      }
    },
    show(n: number) {
      if (n === this.shown || (n > 0 && this.tries[n - 1]?.state?.state !== 'made')) return
      this.before = this.shown
      this.shown = n
    },
    step(by: Frames) {
      this.frame = Math.max(0, Math.min(this.frames - 1, this.frame + by))
    },
    /** Lays the values of a try over the deliverable, or makes them its outlet's own. */
    async take(i: number, whole: boolean) {
      const { key, outlet } = this
      const values = this.tries[i]!.values
      if (!key || !outlet) return
      const all = Object.keys(useDeliverables().all.find((d) => keyText(d) === keyText(key))?.overrides ?? {})
      if (whole) {
        const recipe = { ...outlet.recipe, ...values }
        if (!(await useShelf().save({ ...outlet, recipe }))) return
        await useDeliverables().decide({ action: 'override', keys: [key], values: {}, reset: all })
      } else {
        const reset = all.filter((k) => !(k in values))
        await useDeliverables().decide({ action: 'override', keys: [key], values, reset })
      }
      this.leave()
    },
  },
})
