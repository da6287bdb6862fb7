import { defineStore } from 'pinia'
import { toProblem, type Problem } from '../../core/problem'

/** How long a problem is shown, ms. */
const shownFor = 12_000

/** Problems that a person should see: a few at a time, each for a while. */
export const useProblems = defineStore('problems', {
  state: () => ({ all: [] as (Problem & { readonly key: number })[] }),
  actions: {
    say(problem: Problem) {
      const key = Date.now() + Math.random()
      if (this.all.some((p) => p.message === problem.message && p.where === problem.where)) return
      this.all = [...this.all, { ...problem, key }].slice(-4)
      setTimeout(() => this.dismiss(key), shownFor)
    },
    dismiss(key: number) {
      this.all = this.all.filter((p) => p.key !== key)
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
  },
})
