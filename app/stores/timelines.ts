import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import type { BackgroundWork } from '../../contract/live'
import type { BodyOf } from '../../contract/routes'
import type { ShownTimeline } from '../../contract/timelines'
import { ProblemError } from '../../core/problem'
import { applyPatch, type Patch } from '../../core/split/patch'
import { api } from '../lib/api'
import { heardChannels } from '../lib/hearing'
import { latest } from '../lib/latest'
import { unseenText } from '../lib/seeing'

const complete = (t: ShownTimeline) =>
  (t.analysis?.pictures !== null || t.info.video.length === 0 || unseenText(t) !== null) &&
  (t.analysis?.sound !== null || heardChannels(t).length === 0)

/** Timelines that were brought in, and the one in hand. */
export const useTimelines = defineStore('timelines', {
  state: () => ({
    /** Replaced as they come, never changed: ten thousand events are not watched. */
    all: [] as ShownTimeline[],
    currentId: '',
    background: [] as BackgroundWork[],
  }),
  getters: {
    current: (s): ShownTimeline | null => s.all.find((t) => t.id === s.currentId) ?? s.all[0] ?? null,
  },
  actions: {
    /** Takes up the timeline that was in hand last. */
    recall() {
      this.currentId = localStorage.getItem('velvet.timeline') ?? ''
    },
    choose(id: string) {
      this.currentId = id
      localStorage.setItem('velvet.timeline', id)
    },
    load() {
      return latest('GET timelines', (list) => {
        this.all = markRaw([...list])
        if (!list.some((t) => t.id === this.currentId)) this.currentId = list[0]?.id ?? ''
      })
    },
    /** Asks again for timelines that changed; with none named, for those that are still being looked through. */
    async refresh(ids: readonly string[]) {
      if (ids.some((id) => id === '' || !this.all.some((t) => t.id === id))) return this.load()
      const wanted = ids.length ? ids : this.all.filter((t) => !complete(t)).map((t) => t.id)
      await Promise.all(wanted.map((id) => this.refreshOne(id)))
    },
    async refreshOne(id: string) {
      try {
        await latest('GET timelines/:id', (t) => this.lay(t), { params: { id } })
      } catch (e) {
        if (!(e instanceof ProblemError && e.problem.code === 'timeline.unknown')) throw e
        await this.load()
      }
    },
    /** Puts a newer state of a timeline in the place of the one that is there. */
    lay(t: ShownTimeline) {
      this.all = markRaw(this.all.map((x) => (x.id === t.id ? markRaw(t) : x)))
    },
    takeSplit({ id, version, patch }: { id: string; version: number; patch: Patch }) {
      const t = this.all.find((x) => x.id === id)
      if (t && version > t.splitVersion) this.lay({ ...t, split: applyPatch(t.split, patch), splitVersion: version })
    },
    /** Changes something about a timeline and shows what came of it. */
    async patch(id: string, change: BodyOf<'PATCH timelines/:id'>) {
      await api('PATCH timelines/:id', { params: { id }, body: change })
      await this.load()
    },
  },
})
