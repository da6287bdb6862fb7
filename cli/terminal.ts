import type { Verdict } from '../core/spec/judge'

const colours: Partial<Record<Verdict, number>> = { pass: 32, caution: 33, fail: 31, waived: 35 }

/** A verdict, padded, in colour where a person reads it: never in files or pipes, nor against NO_COLOR. */
export function verdictText(verdict: Verdict, width: number): string {
  const code = colours[verdict]
  const text = verdict.padEnd(width)
  return code && process.stdout.isTTY && !process.env.NO_COLOR ? `\u001B[${code}m${text}\u001B[0m` : text
}

/** Time as people say it: `40 s`, `12 min`, `2 h 05 min`. */
const span = (s: number) =>
  s < 90
    ? `${Math.ceil(s)} s`
    : s < 5400
      ? `${Math.round(s / 60)} min`
      : `${Math.floor(s / 3600)} h ${String(Math.round((s % 3600) / 60)).padStart(2, '0')} min`

/** A line on a terminal that tells frames, per cent and time left; nothing where no terminal is. */
export class Progress {
  private readonly began = Date.now()
  private told = 0

  constructor(private readonly what = '') {}

  tell(done: number, total: number): void {
    if (!process.stderr.isTTY || Date.now() - this.told < 200) return
    this.told = Date.now()
    const share = total > 0 ? done / total : 0
    const left = share > 0.01 ? `, ${span(((Date.now() - this.began) / 1000 / share) * (1 - share))} left` : ''
    process.stderr.write(`\r\u001B[K${this.what}${done} of ${total} frames, ${Math.floor(share * 100)} %${left}`)
  }

  /** Clears the line, for what is printed next or at the end. */
  clear(): void {
    if (process.stderr.isTTY && this.told > 0) process.stderr.write('\r\u001B[K')
  }
}

/** Whoever reads standard output may stop reading (`| head`): that is the end, not an error. */
export function endQuietlyWhenCutOff(): void {
  process.stdout.on('error', (e: NodeJS.ErrnoException) => {
    if (e.code === 'EPIPE') process.exit(process.exitCode ?? 0)
    throw e
  })
}

/** Runs what has to be put away when the process is told to end, once; gives a way to take that back. */
export function whenToldToEnd(putAway: () => Promise<void>): () => void {
  const signals = { SIGINT: 130, SIGTERM: 143 } as const
  const take = (code: number) => () => void putAway().finally(() => process.exit(code))
  const takes = Object.entries(signals).map(([signal, code]) => [signal, take(code)] as const)
  for (const [signal, handler] of takes) process.once(signal, handler)
  return () => takes.forEach(([signal, handler]) => process.off(signal, handler))
}
