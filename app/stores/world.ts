import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import { worstVerdict, type Verdict } from '../../core/spec/judge'
import type { Spec } from '../../core/spec/spec'
import type { Recipe } from '../../core/recipe/recipe'
import type { Abilities } from '../../core/recipe/output'
import { toProblem, type Problem } from '../../core/problem'
import type { ShownTimeline } from '../../contract/timelines'
import type { Deliverable, DeliverableChange } from '../../contract/deliverables'
import type { DeliverableChoice, DeliverableKey, Outlet } from '../../core/deliverable/outlet'
import type { Finished, RunSummary, RunView } from '../../contract/runs'
import { api } from '../lib/api'

export type WorldTimeline = ShownTimeline
interface Background {
  readonly key: string
  readonly kind: string
  readonly done: number
  readonly total: number
  readonly state: string
  readonly problem: string | null
}
interface Pulse {
  readonly topics: Record<string, number>
  readonly background: Background[]
  readonly run: RunView | null
}

/** The last request to each route. */
const asked = new Map<string, Promise<void>>()

/**
 * Asks a route and takes its answer. When it is asked again meanwhile, that answer is waited for and taken instead: an
 * older one never comes over a newer one. Answers are replaced, never changed, so what is inside is not watched: ten
 * thousand events would be costly.
 */
function latest<T extends object>(route: string, take: (answer: T) => void): Promise<void> {
  const job: Promise<void> = api<T>(route).then((answer) => {
    if (asked.get(route) !== job) return asked.get(route)
    take(markRaw(answer))
  })
  asked.set(route, job)
  return job
}

/** What the server knows, as far as the stations show it; kept fresh by asking once a second what has moved. */
export const useWorld = defineStore('world', {
  state: () => ({
    loaded: false,
    timelines: [] as WorldTimeline[],
    outlets: [] as Outlet[],
    recipes: [] as Recipe[],
    specs: [] as Spec[],
    choices: [] as DeliverableChoice[],
    abilities: null as Abilities | null,
    workers: [] as { pid: number; index: number }[],
    deliverables: [] as Deliverable[],
    handed: [] as Finished[],
    runs: [] as RunSummary[],
    run: null as RunView | null,
    background: [] as Background[],
    timelineId: '' as string,
    problems: [] as (Problem & { readonly key: number })[],
    silent: false,
  }),
  getters: {
    timeline: (s): WorldTimeline | null => s.timelines.find((t) => t.id === s.timelineId) ?? s.timelines[0] ?? null,
    ofTimeline(): Deliverable[] {
      return this.deliverables.filter((d) => d.timelineId === this.timeline?.id)
    },
    worst: (s): Verdict => worstVerdict(s.deliverables.map((d) => d.verdict)),
    failing: (s) => s.deliverables.filter((d) => d.verdict === 'fail').length,
  },
  actions: {
    say(problem: Problem) {
      const key = Date.now() + Math.random()
      if (this.problems.some((p) => p.message === problem.message && p.where === problem.where)) return
      this.problems = [...this.problems, { ...problem, key }].slice(-4)
      setTimeout(() => this.dismiss(key), 12_000)
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
    loadTimelines() {
      return latest<WorldTimeline[]>('timelines', (list) => {
        this.timelines = list
        if (!list.some((t) => t.id === this.timelineId)) this.timelineId = list[0]?.id ?? ''
      })
    },
    loadOutlets() {
      return latest<{
        outlets: Outlet[]
        recipes: Recipe[]
        specs: Spec[]
        choices: DeliverableChoice[]
        abilities: Abilities
        workers: { pid: number; index: number }[]
      }>('outlets', (o) => Object.assign(this, o))
    },
    loadDeliverables() {
      return latest<Deliverable[]>('deliverables', (list) => (this.deliverables = list))
    },
    loadRuns() {
      return Promise.all([
        latest<Finished[]>('handover', (list) => (this.handed = list)),
        latest<typeof this.runs>('runs', (list) => (this.runs = list)).then(async () => {
          const first = this.runs[0]
          if (first) await latest<RunView>(`runs/${first.id}`, (run) => (this.run = run))
          else this.run = null
        }),
      ])
    },
    choose(id: string) {
      this.timelineId = id
      localStorage.setItem('velvet.timeline', id)
    },
    async start() {
      this.timelineId = localStorage.getItem('velvet.timeline') ?? ''
      // counters of what is shown: they are kept only once all that follows from them has been answered
      let shown: Record<string, number> | null = null
      const tick = async () => {
        try {
          const p = await api<Pulse>('pulse')
          this.background = p.background
          if (p.run) this.run = p.run
          const moved = (...topics: string[]) => shown === null || topics.some((t) => p.topics[t] !== shown![t])
          const jobs: Promise<unknown>[] = []
          if (moved('timelines', 'facts', 'split')) jobs.push(this.loadTimelines())
          if (moved('outlets')) jobs.push(this.loadOutlets())
          if (moved('timelines', 'facts', 'split', 'outlets')) jobs.push(this.loadDeliverables())
          if (moved('run')) jobs.push(this.loadRuns())
          await Promise.all(jobs)
          shown = p.topics
          this.silent = false
          this.loaded = true
        } catch (e) {
          const problem = toProblem(e)
          this.silent = problem.code === 'server.silent'
          if (!this.silent) this.say(problem)
        }
        setTimeout(() => void tick(), document.hidden ? 3000 : 900)
      }
      await tick()
    },
    /** Decides something of deliverables. */
    async decide(change: DeliverableChange) {
      return this.attempt(async () => {
        await api('deliverables', { method: 'POST', body: change })
        await Promise.all([this.loadOutlets(), this.loadDeliverables()])
      })
    },
    setChosen(keys: readonly DeliverableKey[], chosen: boolean) {
      return this.decide({ action: 'choose', keys: [...keys], chosen })
    },
    async saveOutlet(outlet: Outlet) {
      return this.attempt(async () => {
        await api('outlets', { method: 'PUT', body: outlet })
        await Promise.all([this.loadOutlets(), this.loadDeliverables()])
      })
    },
  },
})
