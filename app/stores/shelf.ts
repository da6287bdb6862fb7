import { defineStore } from 'pinia'
import { markRaw } from 'vue'
import type { Shelf } from '../../contract/shelf'
import type { Outlet } from '../../core/deliverable/outlet'
import type { Spec } from '../../core/spec/spec'
import { api } from '../lib/api'
import { latest } from '../lib/latest'
import { useProblems } from './problems'

/** Outlets, recipes and specs, and what the machine that serves can do. */
export const useShelf = defineStore('shelf', {
  state: () =>
    ({
      outlets: [],
      recipes: [],
      specs: [],
      tables: [],
      abilities: { decodes: [], encodes: [] },
      workers: [],
      workerTrouble: null,
      memory: 0,
      machines: [],
      damaged: [],
    }) as {
      -readonly [K in keyof Shelf]: Shelf[K]
    },
  actions: {
    load() {
      // replaced as they come, never changed: thousands of deliverables look their outlet up
      return latest('GET outlets', ({ outlets, recipes, specs, ...rest }) =>
        Object.assign(this, {
          ...rest,
          outlets: markRaw([...outlets]),
          recipes: markRaw([...recipes]),
          specs: markRaw([...specs]),
        }),
      )
    },
    save(outlet: Outlet) {
      return useProblems().attempt(async () => {
        await api('PUT outlets', { body: outlet })
        await this.load()
      })
    },
    specOf(outletId: string): Spec | undefined {
      const id = this.outlets.find((o) => o.id === outletId)?.spec
      return this.specs.find((s) => s.id === id)
    },
    outletName(id: string): string {
      return this.outlets.find((o) => o.id === id)?.name ?? id
    },
  },
})
