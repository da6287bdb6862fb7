import { fork, type ChildProcess } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { once } from 'node:events'
import { totalmem } from 'node:os'
import path from 'node:path'
import type { WorkerInfo } from '../../contract/shelf'
import { ProblemError, type Problem } from '../../core/problem'
import { log } from '../log'
import type { WorkQueue } from '../queue/port'
import { cacheRoot, dataFolders, home } from '../storage/home'
import type { Root } from '../storage/roots'
import type { JoinedMachine, Look, Looked, PictureAnswer, PictureRequest, WorkerNews, WorkerStart } from './messages'
import type { SourceRef } from './sources/source'

/** How long a process that is told to end may take, in ms, until it is not asked any more. */
const toEnd = 3000

/** Bytes of memory that workers may share with all else on this machine: what it has, or what it is allowed. */
export function machineMemory(): number {
  const allowed = process.constrainedMemory()
  return allowed ? Math.min(totalmem(), allowed) : totalmem()
}

async function end(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return
  const gone = once(child, 'exit')
  child.kill()
  const insist = setTimeout(() => child.kill('SIGKILL'), toEnd)
  await gone
  clearTimeout(insist)
}

/** Pauses between two starts of a worker that ends, ms: each twice as long as the one before. */
const firstPause = 300
const longestPause = 60_000
/** How often in a row a worker ends before it is at work, until that is said. */
const triesUntilSaid = 4

const workerFile = () => path.join(home(), 'dist', 'worker.mjs')

/** The worker processes of this machine: started, watched, started again when one dies. */
export class WorkerPool {
  private readonly workers = new Map<number, ChildProcess>()
  private pictures: ChildProcess | null = null
  private readonly waiting = new Map<number, { resolve: (looked: Looked) => void; reject: (e: Error) => void }>()
  private serial = 0
  private stopping = false
  /** How often in a row each worker ended before it was at work. */
  private readonly failures = new Map<number, number>()
  private problem: Problem | null = null
  /** Bytes of memory that each worker has, by its name, as it said last. */
  readonly memory = new Map<string, number>()

  constructor(
    private readonly queue: Pick<WorkQueue, 'abandon'>,
    private readonly data: string,
    private readonly roots: readonly Root[],
    /** Told when workers cannot be started, or can again. */
    private readonly changed: () => void = () => undefined,
    private readonly joined: JoinedMachine | null = null,
  ) {}

  /** Why workers cannot be started; null while they can. */
  get trouble(): Problem | null {
    return this.problem
  }

  private fork(mode: WorkerStart['mode'], index: number, id: string): ChildProcess {
    // what was made to be looked at lies in the cache
    const cache = { name: cacheRoot, path: dataFolders(this.data).cache }
    const roots = mode === 'pictures' ? [...this.roots, cache] : this.roots
    const start: WorkerStart = { mode, id, data: this.data, roots, index, joined: this.joined }
    return fork(workerFile(), [], {
      env: { ...process.env, VELVET_HOME: home(), VELVET_WORKER: JSON.stringify(start) },
      serialization: 'advanced',
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    })
  }

  /** Starts `count` workers. */
  start(count: number): void {
    for (let index = 0; index < count; index++) this.startOne(index)
  }

  private startOne(index: number): void {
    const id = this.joined ? `${this.joined.machine}/${randomUUID()}` : randomUUID()
    const child = this.fork('work', index, id)
    this.workers.set(index, child)
    let why: string | null = null
    child.on('message', (news: WorkerNews) => {
      if ('broke' in news) why = news.broke
      else if ('memory' in news) this.memory.set(id, news.memory)
      else this.started(index)
    })
    child.on('error', (e) => (why = e.message))
    child.on('exit', (code, signal) => {
      this.memory.delete(id)
      if (this.stopping) return
      const again = this.failed(index, why ?? (signal ? `ended by ${signal}` : `exit code ${code}`))
      const started = `in ${again / 1000} s`
      log().warn({ worker: id, index, code, signal, why, started }, 'a worker process ended; another takes its place')
      void this.queue.abandon(id).catch(() => undefined)
      setTimeout(() => this.stopping || this.startOne(index), again).unref()
    })
  }

  private started(index: number): void {
    this.failures.set(index, 0)
    if (this.problem) this.say(null)
  }

  /** Notes that a worker ended, and why; gives how long to wait until the next is started, ms. */
  private failed(index: number, why: string): number {
    const n = this.failures.get(index) ?? 0
    this.failures.set(index, n + 1)
    if (n + 1 >= triesUntilSaid)
      this.say({
        code: 'worker.cannot-start',
        message: `Workers cannot be started: ${why}.`,
        where: workerFile(),
        fix: 'See the log; build it again with ./velvet, or free some memory. It is tried again every minute.',
      })
    return Math.min(longestPause, firstPause * 2 ** n)
  }

  private say(problem: Problem | null): void {
    if (problem?.message === this.problem?.message) return
    this.problem = problem
    this.changed()
  }

  list(): WorkerInfo[] {
    return [...this.workers].map(([index, c]) => ({ index, pid: c.pid ?? 0 }))
  }

  /**
   * Starts the process that makes pictures, when it is not there: it takes a second or two, which the first picture
   * should not.
   */
  warm(): ChildProcess {
    if (this.pictures) return this.pictures
    const child = this.fork('pictures', 0, randomUUID())
    child.on('message', (a: PictureAnswer) => {
      const w = this.waiting.get(a.id)
      this.waiting.delete(a.id)
      if ('looked' in a) w?.resolve(a.looked)
      else w?.reject(new ProblemError(a.problem))
    })
    child.on('exit', () => {
      this.pictures = null
      const problem: Problem = {
        code: 'worker.lost',
        message: 'The process that makes pictures stopped.',
        fix: 'Try again; if the picture fails every time, the file is damaged there.',
      }
      for (const w of this.waiting.values()) w.reject(new ProblemError(problem))
      this.waiting.clear()
    })
    return (this.pictures = child)
  }

  /** What is to be seen of a frame of a timeline, exact to the frame. */
  look(source: SourceRef, frame: number, look: Look): Promise<Looked> {
    const child = this.warm()
    const id = ++this.serial
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject })
      child.send({ id, source, frame, look } satisfies PictureRequest)
    })
  }

  /** Ends all processes, and waits until they are gone. What they had in hand is done again later. */
  async stop(): Promise<void> {
    this.stopping = true
    const all = this.pictures ? [...this.workers.values(), this.pictures] : [...this.workers.values()]
    await Promise.all(all.map(end))
  }
}
