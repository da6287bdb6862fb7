import { markRaw } from 'vue'
import type { AnswerOf, RouteName } from '../../contract/routes'
import { addressOf, api, type AskedOf } from './api'

/** The last request to each address. */
const asked = new Map<string, Promise<void>>()

/**
 * Asks a route and takes its answer. When it is asked again meanwhile, that answer is waited for and taken instead: an
 * older one never comes over a newer one. Answers are replaced, never changed, so what is inside is not watched: ten
 * thousand events would be costly.
 */
export function latest<R extends RouteName>(
  route: R,
  take: (answer: AnswerOf<R> & object) => void,
  ...what: AskedOf<R>
): Promise<void> {
  const { url } = addressOf(route, ...what)
  const job: Promise<void> = api(route, ...what).then((answer) => {
    if (asked.get(url) !== job) return asked.get(url)
    take(markRaw(answer as AnswerOf<R> & object))
  })
  asked.set(url, job)
  return job
}
