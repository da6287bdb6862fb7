import { defineStore } from 'pinia'
import type { ReceivedFile } from '../../contract/received'
import type { FilePath } from '../../core/media/filepath'
import type { RuleResult } from '../../core/spec/judge'
import { api } from '../lib/api'
import { useProblems } from './problems'

/** How often it is asked how far the workers are, ms. */
const every = 1000
const remembered = 'velvet.received'

function before(): { folder: FilePath | null; spec: string } {
  try {
    return { folder: null, spec: '', ...(JSON.parse(localStorage.getItem(remembered) ?? '{}') as object) }
  } catch {
    return { folder: null, spec: '' }
  }
}

/** Files that came from elsewhere, and what a specification says of them. */
export const useReceived = defineStore('received', {
  state: () => ({
    ...before(),
    files: [] as readonly ReceivedFile[],
    path: '',
    results: [] as readonly RuleResult[],
    loading: false,
    /** The folder in which whatever comes is measured, whether it is looked at or not. */
    watched: null as FilePath | null,
  }),
  getters: {
    chosen: (s): ReceivedFile | null => s.files.find((f) => f.path === s.path) ?? null,
    waiting: (s) => s.files.filter((f) => f.state === 'waiting').length,
    watching: (s): boolean =>
      s.watched !== null && s.watched.root === s.folder?.root && s.watched.path === s.folder.path,
    unmeasured: (s) => s.files.filter((f) => f.state === 'unmeasured').length,
  },
  actions: {
    /** Takes a folder in hand, and has what is in it measured. */
    async take(folder: FilePath) {
      Object.assign(this, { folder, files: [], path: '', results: [] })
      await useProblems().attempt(async () => {
        await api('POST received', { body: folder })
        await this.load()
      })
    },
    async hold(spec: string) {
      this.spec = spec
      await useProblems().attempt(() => this.load())
    },
    async choose(path: string) {
      this.path = path
      await useProblems().attempt(() => this.loadResults())
    },
    /** What is watched; it is looked at where nothing else was taken in hand. */
    async begin() {
      await useProblems().attempt(async () => {
        this.watched = (await api('GET received/watch')).folder
        if (!this.folder && this.watched) await this.take(this.watched)
      })
    },
    /** Measures whatever comes into the folder in hand from now on, or no more. */
    async watch(on: boolean) {
      await useProblems().attempt(async () => {
        this.watched = (await api('PUT received/watch', { body: { folder: on ? this.folder : null } })).folder
      })
    },
    /** Asks again until nothing is being measured any more, or `left` says that nobody looks. */
    async follow(left: () => boolean) {
      while (!left()) {
        await new Promise((r) => setTimeout(r, every))
        if ((this.waiting || this.watching) && !left() && !(await useProblems().attempt(() => this.load()))) return
      }
    },
    async load() {
      const { folder, spec } = this
      localStorage.setItem(remembered, JSON.stringify({ folder, spec }))
      if (!folder || !spec) return
      this.loading = true
      try {
        const files = await api('GET received', { query: { ...folder, spec } })
        // another folder or specification was taken meanwhile
        if (this.folder !== folder || this.spec !== spec) return
        this.files = files
        if (!this.chosen) this.path = files[0]?.path ?? ''
        await this.loadResults()
      } finally {
        this.loading = false
      }
    },
    async loadResults() {
      const { folder, path, spec, chosen } = this
      if (!folder || chosen?.state !== 'judged') {
        this.results = []
        return
      }
      const results = await api('GET received/file', { query: { root: folder.root, path, spec } })
      if (this.path === path && this.spec === spec) this.results = results
    },
  },
})
