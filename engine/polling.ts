/** Does something again and again, the next time so long after the last one has ended; what fails is tried again. */
export class Polling {
  private timer: NodeJS.Timeout | undefined
  private on = false

  constructor(private readonly action: () => Promise<void>) {}

  start(everyMs: number): void {
    this.on = true
    const turn = async () => {
      await this.action().catch(() => undefined)
      if (this.on) this.timer = setTimeout(() => void turn(), everyMs).unref()
    }
    void turn()
  }

  stop(): void {
    this.on = false
    clearTimeout(this.timer)
  }
}
