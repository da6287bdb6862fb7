import type { Frames } from '../../core/time/rate'

// A flattened file played in the page, and looked at frame by frame: a worker reads it by ranges, takes it apart and
// decodes it; this side shows what is due, and holds the pictures around the playhead. Where the browser cannot, the
// prepared previews serve.

/** What the worker is told. */
export type PlayerOrder =
  | { readonly do: 'open'; readonly url: string }
  /** From a frame on, `speed` frames for one (negative: backwards); `turn` comes back with every picture. */
  | { readonly do: 'play'; readonly turn: number; readonly from: Frames; readonly speed: number }
  | { readonly do: 'stop' }
  /** All frames of [from, to), no wider than `width`: they come as stills. */
  | { readonly do: 'hold'; readonly turn: number; readonly from: Frames; readonly to: Frames; readonly width: number }
  /** Pictures that were shown or dropped: as many more may come. */
  | { readonly do: 'more'; readonly turn: number; readonly count: number }

/** What the worker says. */
export type PlayerWord =
  /** Whether it can be played, and how many frames it has. */
  | { readonly is: 'open'; readonly playable: boolean; readonly frames: Frames }
  | { readonly is: 'picture'; readonly turn: number; readonly frame: Frames; readonly picture: VideoFrame }
  | { readonly is: 'still'; readonly turn: number; readonly frame: Frames; readonly picture: ImageBitmap }
  /** The last picture of a turn has come, or none can. */
  | { readonly is: 'over'; readonly turn: number }

/** Frames that are decoded at one go to be held; such a stretch is held on both sides of the playhead's as well. */
const stretch = 24

/** Plays one timeline's file, and holds pictures of it. */
export class Player {
  private readonly worker: Worker
  private turn = 0
  private speed = 1
  private waiting: { frame: Frames; picture: VideoFrame }[] = []
  private over = false
  private frames = 0
  /** Pictures near the playhead, by their frames, and the stretches of which all have come. */
  private readonly held = new Map<Frames, ImageBitmap>()
  private readonly whole = new Set<number>()
  /** The stretch that is on its way, and what it is for. */
  private coming: number | null = null
  private around: { readonly at: Frames; readonly width: number } | null = null
  /** Whether the browser can decode the file; false until it is known. */
  playable = false

  /** `ready` is called when it is known that it can be played, `came` when a picture is held that was not. */
  constructor(
    url: string,
    private readonly ready: () => void,
    private readonly came: (frame: Frames) => void,
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
      this.frames = word.frames
      if (word.playable) this.ready()
    } else if (word.turn !== this.turn) {
      if (word.is !== 'over') word.picture.close()
    } else if (word.is === 'picture') this.waiting.push(word)
    else if (word.is === 'still') {
      this.held.get(word.frame)?.close()
      this.held.set(word.frame, word.picture)
      this.came(word.frame)
    } else this.end()
  }

  private end(): void {
    this.over = true
    if (this.coming === null) return
    this.whole.add(this.coming)
    this.coming = null
    if (this.around) this.hold(this.around.at, this.around.width)
  }

  play(from: Frames, speed: number): void {
    this.drop()
    this.speed = speed
    this.over = false
    this.coming = null
    this.tell({ do: 'play', turn: ++this.turn, from, speed })
  }

  stop(): void {
    this.drop()
    this.turn++
    this.coming = null
    this.tell({ do: 'stop' })
  }

  /** The picture of a frame when it is held; it stays this side's. */
  still(frame: Frames): ImageBitmap | null {
    return this.held.get(frame) ?? null
  }

  /** Whether a frame lies where pictures are held, or on their way. */
  holds(frame: Frames): boolean {
    const here = Math.floor(frame / stretch)
    return this.whole.has(here) || this.coming === here
  }

  /** Sees to it that pictures around a frame are held, no wider than `width`; those far from it go. */
  hold(at: Frames, width: number): void {
    if (!this.playable) return
    if (this.around?.width !== width) this.release()
    this.around = { at, width }
    const here = Math.floor(at / stretch)
    const far = (n: number) => Math.abs(n - here) > 1
    for (const [frame, picture] of this.held)
      if (far(Math.floor(frame / stretch))) {
        picture.close()
        this.held.delete(frame)
      }
    for (const n of this.whole) if (far(n)) this.whole.delete(n)
    if (this.coming === here || (this.coming !== null && this.whole.has(here) && !far(this.coming))) return
    // the side that is nearer first
    const sides = at % stretch < stretch / 2 ? [here - 1, here + 1] : [here + 1, here - 1]
    const next = [here, ...sides].find((n) => n >= 0 && n * stretch < this.frames && !this.whole.has(n))
    if (next === undefined) return
    this.coming = next
    const [from, to] = [next * stretch, Math.min(this.frames, (next + 1) * stretch)]
    this.tell({ do: 'hold', turn: ++this.turn, from, to, width })
  }

  private release(): void {
    for (const picture of this.held.values()) picture.close()
    this.held.clear()
    this.whole.clear()
    this.coming = null
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
    this.release()
    this.worker.terminate()
  }
}
