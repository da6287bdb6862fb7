import type { Part, PartField, Parts } from '../../core/container/structure'
import type { Readings } from '../../core/measure/measure'
import { ProblemError, type Problem } from '../../core/problem'

// A file looked into in the page: a worker reads it, from this machine or by ranges from the server, and takes it
// apart piece by piece; nothing of it is sent anywhere.

/** A file that was opened: what it is, and what its heads say of it. */
export interface OpenedFile {
  readonly name: string
  readonly size: number
  /** What kind of file it is. */
  readonly kind: string
  /** Measures that its heads alone tell; none where it is damaged so far that it could not be opened. */
  readonly readings: Readings
  /** What is odd or wrong about it. */
  readonly problems: readonly Problem[]
}

/** A file on the server, by the address that gives its bytes. */
export interface RemoteFile {
  readonly url: string
  readonly name: string
}

/** A part as it is looked at: what it says, and its first bytes. */
export interface PartLook {
  readonly fields: readonly PartField[]
  readonly bytes: Uint8Array
}

/** What the worker is asked. */
export type InsideQuestion =
  | { readonly ask: 'open'; readonly file: File | RemoteFile }
  /** Parts of the file, or of a part, from a place on. */
  | { readonly ask: 'parts'; readonly of: Part | null; readonly from: number | null }
  | { readonly ask: 'look'; readonly part: Part }

interface Answers {
  readonly open: OpenedFile
  readonly parts: Parts
  readonly look: PartLook
}

/** What the worker says to the question of a number. */
export type InsideAnswer = { readonly number: number } & (
  { readonly ok: Answers[keyof Answers] } | { readonly problem: Problem }
)

/** One file that is looked into. */
export class InsideFile {
  private readonly worker = new Worker(new URL('../workers/inside.ts', import.meta.url), { type: 'module' })
  private readonly waiting = new Map<number, { ok: (a: never) => void; bad: (e: ProblemError) => void }>()
  private count = 0

  constructor() {
    this.worker.onmessage = ({ data }: MessageEvent<InsideAnswer>) => {
      const asked = this.waiting.get(data.number)
      this.waiting.delete(data.number)
      if ('ok' in data) asked?.ok(data.ok as never)
      else asked?.bad(new ProblemError(data.problem))
    }
  }

  /** Throws a problem when it cannot be answered. */
  ask<K extends keyof Answers>(question: InsideQuestion & { readonly ask: K }): Promise<Answers[K]> {
    const number = ++this.count
    return new Promise((ok, bad) => {
      this.waiting.set(number, { ok, bad })
      this.worker.postMessage({ number, ...question })
    })
  }

  close(): void {
    this.worker.terminate()
  }
}
