import { toProblem } from '../core/problem'
import { log } from './log'

/** Does something again and again, the next time so long after the last one has ended; what fails is tried again. */
export class Polling {
  private timer: NodeJS.Timeout | undefined
  private on = false
  private said = ''

  constructor(
    private readonly what: string,
    private readonly action: () => Promise<void>,
  ) {}

  start(everyMs: number): void {
    this.on = true
    const turn = async () => {
      await this.action().then(
        () => (this.said = ''),
        (e: unknown) => this.say(e),
      )
      if (this.on) this.timer = setTimeout(() => void turn(), everyMs).unref()
    }
    void turn()
  }

  stop(): void {
    this.on = false
    clearTimeout(this.timer)
  }

  /** A drive that is away fails every few seconds: it is logged once. */
  private say(err: unknown): void {
    const { message } = toProblem(err)
    if (message !== this.said) log().warn({ err }, `${this.what}: ${message}`)
    this.said = message
  }
}
