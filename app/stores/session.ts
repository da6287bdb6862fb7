import { defineStore } from 'pinia'
import type { LiveEvent } from '../../contract/live'
import { toProblem, type Problem } from '../../core/problem'
import { useDeliverables } from './deliverables'
import { useRuns } from './runs'
import { useShelf } from './shelf'
import { useTimelines } from './timelines'

/** How long a problem is shown, ms. */
const shownFor = 12_000

/** The page's line to the server: what it tells as it happens, and problems that a person should see. */
export const useSession = defineStore('session', {
  state: () => ({
    /** Everything has been answered once. */
    loaded: false,
    silent: false,
    problems: [] as (Problem & { readonly key: number })[],
  }),
  actions: {
    say(problem: Problem) {
      const key = Date.now() + Math.random()
      if (this.problems.some((p) => p.message === problem.message && p.where === problem.where)) return
      this.problems = [...this.problems, { ...problem, key }].slice(-4)
      setTimeout(() => this.dismiss(key), shownFor)
    },
    dismiss(key: number) {
      this.problems = this.problems.filter((p) => p.key !== key)
    },
    /** Does something and shows its problem, if it has one. True when it went well. */
    async attempt(action: () => Promise<unknown>): Promise<boolean> {
      try {
        await action()
        return true
      } catch (e) {
        this.say(toProblem(e))
        return false
      }
    },
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
        hello: () => this.loadAll(),
        timelines: (e) => this.attempt(() => useTimelines().refresh(e.ids)),
        split: (e) => useTimelines().takeSplit(e),
        background: (e) => (useTimelines().background = [...e.work]),
        shelf: () => this.attempt(() => useShelf().load()),
        deliverables: (e) => useDeliverables().take(e),
        runs: () => this.attempt(() => useRuns().load()),
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
        if (!this.silent) this.say(problem)
        setTimeout(() => void this.loadAll(), 1000)
      }
    },
  },
})
