import type { EventHandlerRequest, H3Event } from 'h3'
import { z } from 'zod'
import {
  answerSchemaOf,
  bodySchemaOf,
  type AnswerOf,
  type CheckedBodyOf,
  type ParamsOf,
  type RouteName,
} from '../../contract/routes'
import { fail, toProblem, type Problem } from '../../core/problem'
import { log } from '../../engine/log'
import type { Session } from '../../engine/session'

/** Statuses of problems; whatever is unknown is 404, whatever else is not here 400. */
const statuses: Readonly<Record<string, number>> = {
  'file.missing': 404,
  'root.away': 404,
  'root.outside': 403,
  'root.unknown': 403,
  'split.moved-on': 409,
  'timeline.same-name': 409,
  'disk.full': 507,
  'request.too-large': 413,
  'internal.error': 500,
}
const statusOf = (code: string) =>
  statuses[code] ?? (/^(timeline|run|deliverable|outlet|spec|table|machine)\.unknown$/.test(code) ? 404 : 400)

function refuse(event: H3Event<EventHandlerRequest>, problem: Problem): { error: Problem } {
  setResponseStatus(event, statusOf(problem.code))
  return { error: problem }
}

/** What a route is asked: its body checked, the variable parts of its path as text. */
interface Asked<R extends RouteName> {
  readonly body: CheckedBodyOf<R>
  readonly params: ParamsOf<R>
  readonly event: H3Event<EventHandlerRequest>
}

/** A route of the contract: the session does the work; whatever goes wrong is answered as `{ error: Problem }`. */
export function route<R extends RouteName>(
  name: R,
  handle: (session: Session, asked: Asked<R>) => Promise<AnswerOf<R>>,
) {
  const schema = bodySchemaOf(name)
  return defineEventHandler(async (event) => {
    try {
      const params = Object.fromEntries(
        Object.entries(getRouterParams(event)).map(([k, v]) => [k, decodeURIComponent(v)]),
      ) as ParamsOf<R>
      const body = (schema ? await checkedBody(event, schema) : undefined) as CheckedBodyOf<R>
      const answer = await handle(await openedSession(), { body, params, event })
      if (process.env.VELVET_CHECK_ANSWERS) checkAnswer(name, answer)
      return typeof answer === 'object' && answer !== null ? encode(event, answer) : answer
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

/** Frozen answers as they went out: the same one is not written again. */
const encoded = new WeakMap<object, Buffer>()

function encode(event: H3Event<EventHandlerRequest>, answer: object): unknown {
  // a stream or bytes are no JSON
  if (!Array.isArray(answer) && Object.getPrototypeOf(answer) !== Object.prototype) return answer
  const bytes = encoded.get(answer) ?? Buffer.from(JSON.stringify(answer))
  if (Object.isFrozen(answer)) encoded.set(answer, bytes)
  setResponseHeader(event, 'content-type', 'application/json')
  return bytes
}

/** In tests, and while it is worked on: an answer that is not what the contract says is a fault of the server. */
function checkAnswer(name: RouteName, answer: unknown): void {
  const found = answerSchemaOf(name).safeParse(answer)
  const first = found.error?.issues[0]
  if (first)
    fail('internal.error', `The answer is not that of the contract: ${first.path.join(' ')}: ${first.message}`, name)
}

/** Bytes a JSON body may have: a split of twenty thousand regions has about five million. */
const mostJson = 32 << 20

async function checkedBody(event: H3Event<EventHandlerRequest>, schema: z.ZodType): Promise<unknown> {
  if (Number(getRequestHeader(event, 'content-length') ?? 0) > mostJson)
    fail('request.too-large', 'The request is larger than any that makes sense.', undefined, 'Send less at once.')
  return schema.parse(
    await readBody<unknown>(event).catch(() =>
      fail('request.invalid', 'The request is not JSON.', undefined, 'Correct the value and try again.'),
    ),
  )
}
