import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import type { DeliverableChange, DeliverableSummary } from '../../contract/deliverables'
import type { DeliverableChanges } from '../../contract/live'
import { keyText, type DeliverableKey } from '../../core/deliverable/outlet'
import { worstVerdict, type Verdict } from '../../core/spec/judge'
import { api } from '../lib/api'
import { latest } from '../lib/latest'
import { useProblems } from './problems'
import { useTimelines } from './timelines'

/** Every region for every outlet, as it would be made now. */
export const useDeliverables = defineStore('deliverables', {
  state: () => ({
    /** In the order of timelines, regions and outlets; replaced as they come, never changed. */
    all: [] as DeliverableSummary[],
    revision: -1,
    /** What was told before the whole list has come; null once it has. */
    ahead: [] as DeliverableChanges[] | null,
  }),
  getters: {
    ofTimeline: (s): DeliverableSummary[] => {
      const id = useTimelines().current?.id
      return s.all.filter((d) => d.timelineId === id)
    },
    worst: (s): Verdict => worstVerdict(s.all.map((d) => d.verdict)),
    failing: (s): number => s.all.filter((d) => d.verdict === 'fail').length,
  },
  actions: {
    /** Begins anew with what a server says: one that was started again counts revisions from its beginning. */
    begin() {
      this.revision = -1
      this.ahead = []
    },
    load() {
      return latest('GET deliverables', ({ revision, list }) => {
        // what was told since is newer than what was asked for before
        if (revision < this.revision) return
        this.revision = revision
        this.all = markRaw([...list])
        const ahead = this.ahead ?? []
        this.ahead = null
        for (const changes of ahead) this.take(changes)
      })
    },
    /** Takes what changed; an answer that tells the same again changes nothing. */
    take({ revision, changed, removed }: DeliverableChanges) {
      if (this.ahead) {
        this.ahead.push(markRaw({ revision, changed, removed }))
        return
      }
      if (revision <= this.revision) return
      this.revision = revision
      const gone = new Set(removed)
      const fresh = new Map(changed.map((d) => [keyText(d), d]))
      const kept = this.all.flatMap((d) => {
        const key = keyText(d)
        const next = fresh.get(key) ?? d
        fresh.delete(key)
        return gone.has(key) ? [] : [next]
      })
      this.all = markRaw([...kept, ...fresh.values()])
    },
    /** Decides something of deliverables. True when it went well. */
    decide(change: DeliverableChange) {
      return useProblems().attempt(async () => {
        this.take(await api('POST deliverables', { body: change }))
      })
    },
    setChosen(keys: readonly DeliverableKey[], chosen: boolean) {
      return this.decide({ action: 'choose', keys: [...keys], chosen })
    },
  },
})
