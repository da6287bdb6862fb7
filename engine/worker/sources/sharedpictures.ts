import type { PictureSource } from '../../../core/codec/codec'
import type { Picture } from '../../../core/picture/picture'
import type { FrameRange } from '../../../core/time/range'
import type { Frames } from '../../../core/time/rate'

/** A frame as a picture source gives it. */
interface Read {
  readonly frame: Frames
  readonly picture: Picture
}

interface Waiting {
  resolve(next: IteratorResult<Read>): void
  reject(e: unknown): void
}

/**
 * Pictures of a range that several steps read at once: decoded once, given to all, and scaled once for those that want
 * them alike. Each step is a member until it leaves; the next picture is decoded when all who are left wait for it, so
 * that none runs ahead and one that fails keeps nobody.
 */
export class SharedPictures {
  private readonly members: Set<number>
  private readonly waiting = new Map<number, Waiting>()
  private reading: { readonly range: FrameRange; readonly pictures: AsyncGenerator<Read> } | null = null
  private pulling = false
  private readonly made = new WeakMap<Picture, Map<string, Picture>>()

  constructor(members: readonly number[]) {
    this.members = new Set(members)
  }

  /** A source of the shared pictures for one member, over its own: what is first read decides the range. */
  of(member: number, own: PictureSource): PictureSource {
    return {
      frames: own.frames,
      read: (range) => {
        this.reading ??= { range, pictures: own.read(range) }
        const same = this.reading.range.in === range.in && this.reading.range.out === range.out
        return same && this.members.has(member) ? this.shared(member) : own.read(range)
      },
    }
  }

  /** What is made of a picture, once for all who want it alike. */
  once(picture: Picture, like: string, make: () => Picture): Picture {
    let made = this.made.get(picture)
    if (!made) this.made.set(picture, (made = new Map<string, Picture>()))
    let out = made.get(like)
    if (!out) made.set(like, (out = make()))
    return out
  }

  /** A member reads no more. */
  leave(member: number): void {
    if (!this.members.delete(member)) return
    this.waiting.delete(member)
    if (this.members.size > 0) this.pull()
    else void this.reading?.pictures.return(undefined).catch(() => undefined)
  }

  private async *shared(member: number): AsyncGenerator<Read> {
    try {
      for (;;) {
        const next = await new Promise<IteratorResult<Read>>((resolve, reject) => {
          this.waiting.set(member, { resolve, reject })
          this.pull()
        })
        if (next.done) return
        yield next.value
      }
    } finally {
      this.leave(member)
    }
  }

  /** Decodes the next picture, when everybody waits for it. */
  private pull(): void {
    if (!this.reading || this.pulling || this.waiting.size < this.members.size) return
    this.pulling = true
    const all = [...this.waiting.values()]
    this.waiting.clear()
    this.reading.pictures
      .next()
      .finally(() => (this.pulling = false))
      .then(
        (next) => all.forEach((w) => w.resolve(next)),
        (e: unknown) => all.forEach((w) => w.reject(e)),
      )
  }
}
