import { markRaw } from 'vue'
import { api } from './api'

/** The last request to each route. */
const asked = new Map<string, Promise<void>>()

/**
 * Asks a route and takes its answer. When it is asked again meanwhile, that answer is waited for and taken instead: an
 * older one never comes over a newer one. Answers are replaced, never changed, so what is inside is not watched: ten
 * thousand events would be costly.
 */
export function latest<T extends object>(route: string, take: (answer: T) => void): Promise<void> {
  const job: Promise<void> = api<T>(route).then((answer) => {
    if (asked.get(route) !== job) return asked.get(route)
    take(markRaw(answer))
  })
  asked.set(route, job)
  return job
}
