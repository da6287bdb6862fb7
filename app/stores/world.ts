import { defineStore } from 'pinia'
import { worstVerdict, type Verdict } from '../../core/spec/judge'
import type { Spec } from '../../core/spec/spec'
import type { Recipe } from '../../core/recipe/recipe'
import type { Abilities } from '../../core/recipe/output'
import { ProblemError, toProblem, type Problem } from '../../core/problem'
import type { ShownTimeline } from '../../engine/engine'
import type { Deliverable } from '../../engine/deliverables'
import type { Assignment, Cell, Outlet } from '../../engine/outlets'
import type { RunView } from '../../engine/runs'
import type { SheetItem } from '../../core/plan/sheet'
import type { Proof } from '../../engine/tasks/prove'
import { api } from '../lib/api'

export type WorldTimeline = ShownTimeline
export interface Handed { readonly item: SheetItem, readonly proof: Proof, readonly path: string, readonly finished: string, readonly run: string }
interface Background { readonly key: string, readonly kind: string, readonly done: number, readonly total: number, readonly state: string, readonly problem: string | null }
interface Pulse { readonly topics: Record<string, number>, readonly background: Background[], readonly run: RunView | null }

/** What the server knows, as far as the stations show it; kept fresh by asking once a second what has moved. */
export const useWorld = defineStore('world', {
  state: () => ({
    loaded: false,
    timelines: [] as WorldTimeline[],
    outlets: [] as Outlet[],
    recipes: [] as Recipe[],
    specs: [] as Spec[],
    assignments: [] as Assignment[],
    abilities: null as Abilities | null,
    workers: [] as { pid: number, index: number }[],
    deliverables: [] as Deliverable[],
    handed: [] as Handed[],
    runs: [] as { id: string, name: string, state: string, created: string, done: number, total: number }[],
    run: null as RunView | null,
    background: [] as Background[],
    topics: {} as Record<string, number>,
    timelineId: '' as string,
    problems: [] as (Problem & { readonly key: number })[],
    silent: false,
  }),
  getters: {
    timeline: (s): WorldTimeline | null => s.timelines.find(t => t.id === s.timelineId) ?? s.timelines[0] ?? null,
    ofTimeline(): Deliverable[] {
      return this.deliverables.filter(d => d.timelineId === this.timeline?.id)
    },
    worst: (s): Verdict => worstVerdict(s.deliverables.map(d => d.verdict)),
    failing: s => s.deliverables.filter(d => d.verdict === 'fail').length,
  },
  actions: {
    say(problem: Problem) {
      const key = Date.now() + Math.random()
      if (this.problems.some(p => p.message === problem.message && p.where === problem.where)) return
      this.problems = [...this.problems, { ...problem, key }].slice(-4)
      setTimeout(() => this.dismiss(key), 12_000)
    },
    dismiss(key: number) {
      this.problems = this.problems.filter(p => p.key !== key)
    },
    /** Does something and shows its problem, if it has one. True when it went well. */
    async attempt(action: () => Promise<unknown>): Promise<boolean> {
      try {
        await action()
        return true
      }
      catch (e) {
        this.say(e instanceof ProblemError ? e.problem : toProblem(e))
        return false
      }
    },
    async loadTimelines() {
      this.timelines = await api<WorldTimeline[]>('timelines')
      if (!this.timelines.some(t => t.id === this.timelineId)) this.timelineId = this.timelines[0]?.id ?? ''
    },
    async loadOutlets() {
      const o = await api<{ outlets: Outlet[], recipes: Recipe[], specs: Spec[], assignments: Assignment[], abilities: Abilities, workers: { pid: number, index: number }[] }>('outlets')
      Object.assign(this, o)
    },
    async loadDeliverables() {
      this.deliverables = await api<Deliverable[]>('deliverables')
    },
    async loadRuns() {
      [this.runs, this.handed] = await Promise.all([api<typeof this.runs>('runs'), api<Handed[]>('handover')])
      const latest = this.runs[0]
      this.run = latest ? await api<RunView>(`runs/${latest.id}`) : null
    },
    choose(id: string) {
      this.timelineId = id
      localStorage.setItem('velvet.timeline', id)
    },
    async start() {
      this.timelineId = localStorage.getItem('velvet.timeline') ?? ''
      await this.attempt(() => Promise.all([this.loadTimelines(), this.loadOutlets(), this.loadDeliverables(), this.loadRuns()]))
      this.loaded = true
      let last: Record<string, number> | null = null
      const tick = async () => {
        try {
          const p = await api<Pulse>('pulse')
          this.silent = false
          this.background = p.background
          if (p.run) this.run = p.run
          const moved = (...topics: string[]) => last !== null && topics.some(t => p.topics[t] !== last![t])
          const jobs: Promise<unknown>[] = []
          if (moved('timelines', 'facts', 'split')) jobs.push(this.loadTimelines())
          if (moved('outlets')) jobs.push(this.loadOutlets())
          if (moved('timelines', 'facts', 'split', 'outlets')) jobs.push(this.loadDeliverables())
          if (moved('run')) jobs.push(this.loadRuns())
          last = p.topics
          this.topics = p.topics
          await Promise.all(jobs)
        }
        catch {
          this.silent = true
        }
        setTimeout(() => void tick(), document.hidden ? 3000 : 900)
      }
      void tick()
    },
    async cells(action: Record<string, unknown>) {
      return this.attempt(async () => {
        await api('cells', { method: 'POST', body: action })
        await Promise.all([this.loadOutlets(), this.loadDeliverables()])
      })
    },
    setCells(cells: readonly Cell[], chosen: boolean) {
      return this.cells({ action: 'choose', cells, chosen })
    },
    async saveOutlet(outlet: Outlet) {
      return this.attempt(async () => {
        await api('outlets', { method: 'PUT', body: outlet })
        await Promise.all([this.loadOutlets(), this.loadDeliverables()])
      })
    },
  },
})
