import { defineStore } from 'pinia'
import type { LiveEvent } from '../../contract/live'
import { toProblem } from '../../core/problem'
import { useDeliverables } from './deliverables'
import { useProblems } from './problems'
import { useRuns } from './runs'
import { useShelf } from './shelf'
import { useTimelines } from './timelines'

/** The page's line to the server: what it tells as it happens goes to the stores it concerns. */
export const useSession = defineStore('session', {
  state: () => ({
    /** Everything has been answered once. */
    loaded: false,
    silent: false,
  }),
  actions: {
    /** Listens to the server from now on; whenever the line is there anew, everything is asked for. */
    start() {
      useTimelines().recall()
      const line = new EventSource('/api/live')
      line.onmessage = (e: MessageEvent<string>) => this.hear(JSON.parse(e.data) as LiveEvent)
      line.onerror = () => {
        this.silent = true
        // a line that the server refused is not tried again by the browser
        if (line.readyState === EventSource.CLOSED) setTimeout(() => this.start(), 1000)
      }
    },
    hear(event: LiveEvent) {
      const takers: { readonly [T in LiveEvent['type']]: (e: Extract<LiveEvent, { type: T }>) => unknown } = {
        hello: () => {
          useDeliverables().begin()
          return this.loadAll()
        },
        timelines: (e) => useProblems().attempt(() => useTimelines().refresh(e.ids)),
        split: (e) => useTimelines().takeSplit(e),
        background: (e) => (useTimelines().background = [...e.work]),
        shelf: () => useProblems().attempt(() => useShelf().load()),
        deliverables: (e) => useDeliverables().take(e),
        runs: () => useProblems().attempt(() => useRuns().load()),
        run: (e) => useRuns().takePulse(e),
        handover: (e) => useRuns().takeFinished(e.finished),
      }
      void takers[event.type](event as never)
    },
    async loadAll() {
      try {
        await Promise.all([useTimelines().load(), useShelf().load(), useDeliverables().load(), useRuns().loadAll()])
        this.silent = false
        this.loaded = true
      } catch (e) {
        const problem = toProblem(e)
        this.silent = problem.code === 'server.silent'
        if (!this.silent) useProblems().say(problem)
        setTimeout(() => void this.loadAll(), 1000)
      }
    },
  },
})
