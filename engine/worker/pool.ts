import { fork, type ChildProcess } from 'node:child_process'
import path from 'node:path'
import { ProblemError, type Problem } from '../../core/problem'
import type { Db } from '../store/database'
import { Dispatch } from '../queue/sqlite'
import { home } from '../storage/home'
import type { Root } from '../storage/roots'
import type { SourcePlace } from './source'
import type { PictureAnswer, PictureRequest, WorkerStart } from './process'

export interface CrewMember {
  readonly pid: number
  readonly index: number
}

/** The worker processes of this machine: started, watched, started again when one dies. */
export class Crew {
  private readonly members = new Map<number, ChildProcess>()
  private pictures: ChildProcess | null = null
  private readonly waiting = new Map<number, { resolve: (jpeg: Buffer) => void; reject: (e: Error) => void }>()
  private serial = 0
  private stopping = false

  constructor(
    private readonly db: Db,
    private readonly data: string,
    private readonly roots: readonly Root[],
  ) {}

  private start(mode: WorkerStart['mode'], index: number): ChildProcess {
    const start: WorkerStart = { mode, data: this.data, roots: this.roots, index }
    return fork(path.join(home(), 'dist', 'worker.mjs'), [], {
      env: { ...process.env, VELVET_HOME: home(), VELVET_WORKER: JSON.stringify(start) },
      serialization: 'advanced',
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    })
  }

  /** Starts `count` workers. */
  hire(count: number): void {
    for (let index = 0; index < count; index++) this.hireOne(index)
  }

  private hireOne(index: number): void {
    const child = this.start('work', index)
    this.members.set(index, child)
    child.on('exit', () => {
      void new Dispatch(this.db).release((owner) => owner.startsWith(`${child.pid}-`)).catch(() => undefined)
      if (!this.stopping) setTimeout(() => this.stopping || this.hireOne(index), 300).unref()
    })
  }

  list(): CrewMember[] {
    return [...this.members].map(([index, c]) => ({ index, pid: c.pid ?? 0 }))
  }

  /**
   * Starts the process that makes pictures, when it is not there: it takes a second or two, which the first picture
   * should not.
   */
  warm(): ChildProcess {
    if (this.pictures) return this.pictures
    const child = this.start('pictures', 0)
    child.on('message', (a: PictureAnswer) => {
      const w = this.waiting.get(a.id)
      this.waiting.delete(a.id)
      if ('jpeg' in a) w?.resolve(Buffer.from(a.jpeg))
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

  /** An exact picture of a timeline, as JPEG. */
  picture(place: SourcePlace, frame: number, width: number): Promise<Buffer> {
    const child = this.warm()
    const id = ++this.serial
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject })
      child.send({ id, place, frame, width } satisfies PictureRequest)
    })
  }

  /** Ends all processes. What they had in hand is done again later. */
  stop(): void {
    this.stopping = true
    for (const c of this.members.values()) c.kill()
    this.pictures?.kill()
  }
}

/** Whether the process of an owner (`pid-…`) is alive. */
export function ownerAlive(owner: string): boolean {
  try {
    process.kill(Number.parseInt(owner, 10), 0)
    return true
  } catch {
    return false
  }
}
