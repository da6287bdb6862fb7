import type { Problem } from '../../core/problem'
import { log } from '../log'
import type { Queue } from '../queue/port'
import type { Roots } from '../storage/roots'

/** How often storage roots are looked at, ms. */
const every = 2_000

/** How long a step waits for a root that is away, in minutes, when nothing else is said. */
export const usualPatience = 120

/**
 * Looks after the steps that are set aside because a storage root is away: lets them go on when it is back, and gives
 * them up in the end. That a root went or came is told to whoever judges by it.
 */
export class AwayRoots {
  private timer: NodeJS.Timeout | undefined
  private stopped = false
  private before = '[]'
  /** When each step was first seen waiting, ms of this process. */
  private readonly since = new Map<number, number>()

  constructor(
    private readonly queue: Queue,
    private readonly roots: Roots,
    private readonly moved: () => Promise<void>,
    private readonly patienceMinutes = usualPatience,
  ) {}

  start(): void {
    const again = () => {
      // a look that was under way as it was stopped is the last one
      if (!this.stopped) this.timer = setTimeout(() => void look(), every).unref()
    }
    const look = async () => {
      await this.look().catch((err: unknown) => log().error({ err }, 'storage roots could not be looked at'))
      again()
    }
    again()
  }

  stop(): void {
    this.stopped = true
    clearTimeout(this.timer)
  }

  /** One look. */
  async look(now = performance.now()): Promise<void> {
    const away = this.roots.list.flatMap((r) => this.roots.lost(r.name) ?? [])
    const text = JSON.stringify(away)
    if (text !== this.before) {
      this.before = text
      for (const problem of away) log().warn({ problem }, 'a storage root is away')
      await this.moved()
    }
    const aside = await this.queue.aside()
    for (const step of this.since.keys()) if (!aside.some((s) => s.step === step)) this.since.delete(step)
    for (const { step, roots, problem } of aside) {
      const since = this.since.get(step) ?? now
      this.since.set(step, since)
      const waited = (now - since) / 60_000
      if (roots.every((name) => this.roots.away(name) === null)) await this.queue.takeUp(step)
      else if (waited >= this.patienceMinutes) await this.queue.giveUp(step, gaveUp(problem, waited))
    }
  }
}

const gaveUp = (problem: Problem, minutes: number): Problem => ({
  ...problem,
  message: `${problem.message} It was waited for ${Math.round(minutes)} minutes.`,
  fix: 'Connect the drive, then run it again.',
})
