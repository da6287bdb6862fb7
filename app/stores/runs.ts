import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import type { RunPulse } from '../../contract/live'
import { runToShow, type FinishedSummary, type RunSummary, type RunView } from '../../contract/runs'
import { latest } from '../lib/latest'

/** Night runs: the list, the one that is shown, and what is finished. */
export const useRuns = defineStore('runs', {
  state: () => ({
    all: [] as RunSummary[],
    /** See {@link runToShow}. */
    current: null as RunView | null,
    /** Another one that was opened. */
    opened: null as RunView | null,
    /** Finished files, newest first. */
    finished: [] as FinishedSummary[],
  }),
  actions: {
    async load() {
      await latest('GET runs', (list) => (this.all = markRaw([...list])))
      const shown = runToShow(this.all)
      if (shown) await latest('GET runs/:id', (run) => (this.current = run), { params: { id: shown.id } })
      else this.current = null
      const { opened } = this
      if (!opened || opened.state === 'done') return
      if (this.all.some((r) => r.id === opened.id)) await this.open(opened.id)
      else this.opened = null
    },
    /** Shows another run. */
    async open(id: string) {
      if (id === this.current?.id) this.opened = null
      else await latest('GET runs/:id', (run) => (this.opened = markRaw(run)), { params: { id } })
    },
    async loadAll() {
      await Promise.all([this.load(), latest('GET handover', (list) => (this.finished = markRaw([...list])))])
    },
    /** Lays what moved over the run that is shown. */
    takePulse({ items, ...rest }: RunPulse) {
      if (this.current?.id !== rest.id) return
      const moved = new Map(items.map((i) => [i.id, i]))
      const { id, state, workers, finished, lanes, framesPerSecond, secondsLeft } = rest
      this.current = markRaw({
        ...this.current,
        ...{ id, state, workers, finished, lanes, framesPerSecond, secondsLeft },
        items: this.current.items.map((i) => moved.get(i.id) ?? i),
      })
    },
    takeFinished(list: readonly FinishedSummary[]) {
      const fresh = new Set(list.map((f) => f.id))
      this.finished = markRaw([...list, ...this.finished.filter((f) => !fresh.has(f.id))])
    },
  },
})
