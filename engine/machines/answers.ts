import { log } from '../log'
import { ClaimLost, type Queue, type WorkerProfile } from '../queue/port'
import type { Db } from '../store/database'
import { readFacts } from '../store/facts'
import { tableText } from '../store/tables'
import type { AnswerOf, CallName, InputOf } from '../worker/joined/calls'
import type { Sheets } from '../worker/ports'

/** What calls of joined machines are answered from. */
export interface Answering {
  readonly db: Db
  readonly queue: Queue
  readonly sheets: Sheets
  /** A worker of the machine that asks, with those of its places that are there just now. */
  readonly worker: (id: string, places: readonly string[]) => WorkerProfile
  /** Counts a step that it has done. */
  readonly done: () => void
  /** Notes how much memory each of its workers has. */
  readonly takes: (memory: readonly (readonly [string, number])[]) => void
}

type Answers = { readonly [C in CallName]: (a: Answering, input: InputOf<C>) => Promise<AnswerOf<C>> }

/** Who gives back what it has lost has nothing to give back. */
function unlessLost(e: unknown): void {
  if (!(e instanceof ClaimLost)) throw e
}

/** Answers each call as the ports of a worker of this machine would. */
export const answers: Answers = {
  beat({ takes }, { memory }) {
    takes(memory)
    return Promise.resolve(null)
  },
  async claim({ queue, worker }, { worker: id, places, anew }) {
    // who asks for work has none: what an answer that was lost gave it is given anew
    if (anew) await queue.reclaim(id)
    return queue.claim(worker(id, places))
  },
  companions: async ({ queue, worker }, { worker: id, places, claim }) =>
    queue.companions(await queue.held(claim), worker(id, places)),
  async renew({ queue }, { claim, framesDone }) {
    await queue.renew(await queue.held(claim), framesDone)
    return null
  },
  results: async ({ queue }, { claim }) => [...(await queue.results(await queue.held(claim)))],
  async finish({ queue, done }, { claim, result }) {
    // how fast another machine is says nothing of this one's pace
    await queue.finish({ ...(await queue.held(claim)), payload: {} }, result)
    done()
    return null
  },
  async fail({ queue }, { claim, problem }) {
    await queue.fail(await queue.held(claim), problem)
    return null
  },
  async takeBack({ queue }, { claim, problem }) {
    const held = await queue.held(claim)
    const taken = await queue.takeBack(held)
    const { worker, key, kind, deliverable, run } = held
    const about = { problem, worker, step: key, kind, deliverable, run }
    if (taken) log().warn(about, 'a step failed on another machine, and is tried on this one')
    return taken
  },
  async release({ queue }, { claim }) {
    await queue.held(claim).then((held) => queue.release(held), unlessLost)
    return null
  },
  async setAside({ queue }, { claim, roots, problem }) {
    await queue.held(claim).then((held) => queue.setAside(held, roots, problem), unlessLost)
    return null
  },
  async abandon({ queue }, { worker }) {
    await queue.abandon(worker)
    return null
  },
  facts: async ({ db }, { keys }) => [...(await readFacts(db, keys))],
  table: ({ db }, { id }) => tableText(db, id),
  frozen: ({ sheets }, { deliverable }) => sheets.frozen(deliverable),
  noted: ({ sheets }, { deliverable }) => sheets.noted(deliverable),
  async note({ queue, sheets }, { claim, path, proof }) {
    const held = await queue.held(claim)
    await sheets.note(held, (await sheets.frozen(held.deliverable!))!, path, proof)
    return null
  },
  still: async ({ queue, sheets }, { claim, end, jpeg }) =>
    sheets.still(await queue.held(claim), end, Buffer.from(jpeg, 'base64')),
  siblings: ({ sheets }, { run, outlet }) => sheets.siblings(run, outlet),
}
