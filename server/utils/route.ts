import type { EventHandlerRequest, H3Event } from 'h3'
import { z } from 'zod'
import { fail, toProblem, type Problem } from '../../core/problem'
import { log } from '../../engine/log'
import type { Session } from '../../engine/session'

/** Statuses of problems; whatever is unknown is 404, whatever else is not here 400. */
const statuses: Readonly<Record<string, number>> = {
  'file.missing': 404,
  'root.outside': 403,
  'root.unknown': 403,
  'split.moved-on': 409,
  'timeline.same-name': 409,
  'disk.full': 507,
  'request.too-large': 413,
  'internal.error': 500,
}
const statusOf = (code: string) =>
  statuses[code] ?? (/^(timeline|run|deliverable|outlet|spec)\.unknown$/.test(code) ? 404 : 400)

function refuse(event: H3Event<EventHandlerRequest>, problem: Problem): { error: Problem } {
  setResponseStatus(event, statusOf(problem.code))
  return { error: problem }
}

/** A route: the session does the work; whatever goes wrong is answered as `{ error: Problem }`. */
export function route<T>(handle: (session: Session, event: H3Event<EventHandlerRequest>) => Promise<T>) {
  return defineEventHandler(async (event) => {
    try {
      return await handle(await openedSession(), event)
    } catch (e) {
      if (e instanceof z.ZodError) {
        const first = e.issues[0]
        return refuse(event, {
          code: 'request.invalid',
          message: first ? `${first.path.join(' ') || 'The request'}: ${first.message}` : 'The request cannot be read.',
          fix: 'Correct the value and try again.',
        })
      }
      const problem = toProblem(e)
      if (problem.code === 'internal.error') log().error({ err: e, route: event.path }, 'a request failed')
      return refuse(event, problem)
    }
  })
}

/** Bytes a JSON body may have: a split of twenty thousand regions has about five million. */
const mostJson = 32 << 20

/** The JSON body, checked. */
export async function body<T>(event: H3Event<EventHandlerRequest>, schema: z.ZodType<T>): Promise<T> {
  if (Number(getRequestHeader(event, 'content-length') ?? 0) > mostJson)
    fail('request.too-large', 'The request is larger than any that makes sense.', undefined, 'Send less at once.')
  return schema.parse(
    await readBody<unknown>(event).catch(() =>
      fail('request.invalid', 'The request is not JSON.', undefined, 'Correct the value and try again.'),
    ),
  )
}

/** A part of the path, as text. */
export function param(event: H3Event<EventHandlerRequest>, name: string): string {
  return decodeURIComponent(getRouterParam(event, name) ?? '')
}
