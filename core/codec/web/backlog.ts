/** Longest wait for word from a codec before it is asked itself, ms. */
const patience = 20

/** Gives way once: a codec hands over its results between turns, and one that is never given a turn may drop them. */
const turn = () =>
  new Promise<void>((resolve) => {
    if (typeof setImmediate === 'function') setImmediate(resolve)
    else setTimeout(resolve, 0)
  })

/**
 * What a codec was given and has not taken up. It is counted here, since a codec's own count may be answered only after
 * the picture that is under way. Codecs hold it by their callbacks, so it may not lead back to them.
 */
export class Backlog {
  error: Error | null = null
  private given = 0
  private taken = 0
  private heard: (() => void) | null = null

  add(): void {
    this.given++
  }

  /** For a codec's `ondequeue`. */
  readonly dequeued = (): void => {
    this.taken++
    this.heard?.()
  }

  readonly failed = (error: Error): void => {
    this.error ??= error
    this.heard?.()
  }

  /** Waits until fewer than `most` wait; `size` asks the codec itself. Throws what the codec stopped with. */
  async below(most: number, size: () => number): Promise<void> {
    await turn()
    while (!this.error && this.given - this.taken >= most) {
      const asked = await this.word()
      // where several are told of at once, or none, the codec knows
      if (asked) this.taken = this.given - size()
    }
    if (this.error) throw this.error
  }

  /** Waits for word; whether none came. */
  private word(): Promise<boolean> {
    return new Promise((resolve) => {
      const end = (asked: boolean) => {
        clearTimeout(timer)
        this.heard = null
        resolve(asked)
      }
      const timer = setTimeout(() => end(true), patience)
      this.heard = () => end(false)
    })
  }
}
