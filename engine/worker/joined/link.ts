import { setTimeout as sleep } from 'node:timers/promises'
import type { AnswerOf as RouteAnswerOf, BodyOf, ParamsOf, RouteName } from '../../../contract/routes'
import { ProblemError, type Problem } from '../../../core/problem'
import { ClaimLost } from '../../queue/port'
import { claimLost, machineUnknown, type AnswerOf, type CallName, type InputOf } from './calls'

/** How long an answer is waited for, ms: of a call, and by who leaves. */
const patience = 60_000
const leaving = 3_000
/** How long after a try that got no answer the next is made, ms. */
const pause = 1_000

/** Where the machine that serves is asked, and with what key. */
export interface ServerAddress {
  /** `http://name:port` */
  readonly url: string
  /** Null where the server asks for none. */
  readonly key: string | null
}

/** An address as a person gives it: with the key in it, as a server prints it, or without. */
export function serverAddress(typed: string, key: string | null): ServerAddress | null {
  const whole = /^[a-z]+:\/\//i.test(typed) ? typed : `http://${typed}`
  if (!URL.canParse(whole)) return null
  const url = new URL(whole)
  if (!/^https?:$/.test(url.protocol)) return null
  return { url: url.origin, key: key ?? url.searchParams.get('key') }
}

/** That the server gave no answer: it is away, or is just being started again. */
export class NoAnswer extends Error {}

/** Asks the machine that serves. Answers that are problems are thrown as such; none at all as {@link NoAnswer}. */
export class ServerLink {
  constructor(private readonly server: ServerAddress) {}

  async ask<R extends RouteName>(
    route: R,
    params: ParamsOf<R>,
    body?: BodyOf<R>,
    within = patience,
  ): Promise<RouteAnswerOf<R>> {
    const [method, path] = route.split(' ') as [string, string]
    const filled = path.replace(/:(\w+)/g, (_, n: string) => encodeURIComponent((params as Record<string, string>)[n]!))
    const { url, key } = this.server
    let response: Response
    let answer: { readonly error?: Problem } | null
    try {
      response = await fetch(`${url}/api/${filled}`, {
        method,
        signal: AbortSignal.timeout(within),
        headers: { 'content-type': 'application/json', ...(key ? { authorization: `Bearer ${key}` } : {}) },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      })
      answer = (await response.json()) as typeof answer
    } catch (e) {
      throw new NoAnswer((e as Error).message, { cause: e })
    }
    if (answer?.error) throw new ProblemError(answer.error)
    if (!response.ok) throw new NoAnswer(`The server answered ${response.status}.`)
    return answer as RouteAnswerOf<R>
  }
}

/** Asks a machine that serves in the name of one that joined. */
export class MachineLink {
  private readonly link: ServerLink

  constructor(
    server: ServerAddress,
    /** What it is called there. */
    readonly machine: string,
  ) {
    this.link = new ServerLink(server)
  }

  /** One try. Throws ClaimLost where the server says so. */
  async once<C extends CallName>(call: C, input: InputOf<C>): Promise<AnswerOf<C>> {
    try {
      const { value } = await this.link.ask('POST machines/:id/calls', { id: this.machine }, { call, input })
      return value as AnswerOf<C>
    } catch (e) {
      throw e instanceof ProblemError && e.problem.code === claimLost ? new ClaimLost() : e
    }
  }

  /**
   * Asks until there is an answer: what a worker has done is not lost because the server is away for a while, and
   * whoever started the worker ends it where the server does not know this machine any more.
   */
  async call<C extends CallName>(call: C, inputOf: InputOf<C> | ((tries: number) => InputOf<C>)): Promise<AnswerOf<C>> {
    for (let tries = 0; ; tries++)
      try {
        return await this.once(call, typeof inputOf === 'function' ? inputOf(tries) : inputOf)
      } catch (e) {
        if (!(e instanceof NoAnswer || isUnknown(e))) throw e
        await sleep(pause)
      }
  }

  /** Says that it leaves: what its workers hold is given to others at once. */
  async leave(): Promise<void> {
    await this.link.ask('DELETE machines/:id', { id: this.machine }, undefined, leaving)
  }
}

/** Whether the server does not know this machine: it was started again, or has not heard of it for too long. */
export const isUnknown = (e: unknown) => e instanceof ProblemError && e.problem.code === machineUnknown
