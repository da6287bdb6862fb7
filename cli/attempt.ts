import { ProblemError, problemText, toProblem } from '../core/problem'

/**
 * Runs a command; a problem becomes a sentence on standard error, with --json also JSON on standard output; exit code
 * 2.
 */
export async function attempt(action: () => Promise<number>): Promise<void> {
  try {
    process.exitCode = await action()
  } catch (e) {
    const problem = e instanceof ProblemError ? e.problem : toProblem(e)
    process.stderr.write(`${problemText(problem)}\n`)
    if (process.argv.includes('--json')) process.stdout.write(`${JSON.stringify({ error: problem })}\n`)
    process.exitCode = 2
  }
}
