import { defineStore } from 'pinia'
import type { Shelf } from '../../contract/shelf'
import type { Outlet } from '../../core/deliverable/outlet'
import { api } from '../lib/api'
import { latest } from '../lib/latest'
import { useProblems } from './problems'

/** Outlets, recipes and specs, and what the machine that serves can do. */
export const useShelf = defineStore('shelf', {
  state: () =>
    ({ outlets: [], recipes: [], specs: [], abilities: { decodes: [], encodes: [] }, workers: [] }) as {
      -readonly [K in keyof Shelf]: Shelf[K]
    },
  actions: {
    load() {
      return latest<Shelf>('outlets', (shelf) => Object.assign(this, shelf))
    },
    save(outlet: Outlet) {
      return useProblems().attempt(async () => {
        await api('outlets', { method: 'PUT', body: outlet })
        await this.load()
      })
    },
    outletName(id: string): string {
      return this.outlets.find((o) => o.id === id)?.name ?? id
    },
  },
})
