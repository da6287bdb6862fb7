import type { Frames } from '../../core/time/rate'

// Playing a flattened file in the page: a worker reads it by ranges, takes it apart and decodes it; this side shows
// what is due. Where the browser cannot, the prepared previews serve.

/** What the worker is told. */
export type PlayerOrder =
  | { readonly do: 'open'; readonly url: string }
  /** From a frame on, `speed` frames for one (negative: backwards); `turn` comes back with every picture. */
  | { readonly do: 'play'; readonly turn: number; readonly from: Frames; readonly speed: number }
  | { readonly do: 'stop' }
  /** Pictures that were shown or dropped: as many more may come. */
  | { readonly do: 'more'; readonly turn: number; readonly count: number }

/** What the worker says. */
export type PlayerWord =
  | { readonly is: 'open'; readonly playable: boolean }
  | { readonly is: 'picture'; readonly turn: number; readonly frame: Frames; readonly picture: VideoFrame }
  /** The last picture of a turn has come, or none can. */
  | { readonly is: 'over'; readonly turn: number }

/** Plays one timeline's file. */
export class Player {
  private readonly worker: Worker
  private turn = 0
  private speed = 1
  private waiting: { frame: Frames; picture: VideoFrame }[] = []
  private over = false
  /** Whether the browser can decode the file; false until it is known. */
  playable = false

  /** `ready` is called when it is known that it can be played. */
  constructor(
    url: string,
    private readonly ready: () => void,
  ) {
    this.worker = new Worker(new URL('../workers/player.ts', import.meta.url), { type: 'module' })
    this.worker.onmessage = ({ data }: MessageEvent<PlayerWord>) => this.hear(data)
    this.tell({ do: 'open', url: new URL(url, location.href).href })
  }

  private tell(order: PlayerOrder): void {
    this.worker.postMessage(order)
  }

  private hear(word: PlayerWord): void {
    if (word.is === 'open') {
      this.playable = word.playable
      if (word.playable) this.ready()
    } else if (word.turn !== this.turn) {
      if (word.is === 'picture') word.picture.close()
    } else if (word.is === 'over') this.over = true
    else this.waiting.push(word)
  }

  play(from: Frames, speed: number): void {
    this.drop()
    this.speed = speed
    this.over = false
    this.tell({ do: 'play', turn: ++this.turn, from, speed })
  }

  stop(): void {
    this.drop()
    this.turn++
    this.tell({ do: 'stop' })
  }

  private drop(): void {
    for (const { picture } of this.waiting) picture.close()
    this.waiting = []
  }

  /**
   * The picture that is due at a frame, to be closed by who takes it; null when there is no newer one than last time.
   * When pictures fall behind by more than a second of `rate`, they go on where it is.
   */
  take(due: Frames, rate: number): { frame: Frames; picture: VideoFrame } | null {
    const early = (frame: Frames) => (this.speed > 0 ? frame > due : frame < due)
    let taken: { frame: Frames; picture: VideoFrame } | null = null
    let count = 0
    while (this.waiting.length && !early(this.waiting[0]!.frame)) {
      taken?.picture.close()
      taken = this.waiting.shift()!
      count++
    }
    if (count) this.tell({ do: 'more', turn: this.turn, count })
    const behind = taken && this.waiting.length === 0 ? Math.abs(due - taken.frame) : 0
    if (!this.over && behind > rate * Math.max(1, Math.abs(this.speed) / 2)) this.play(due, this.speed)
    return taken
  }

  close(): void {
    this.stop()
    this.worker.terminate()
  }
}
