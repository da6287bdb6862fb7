import type { Problem } from '../../problem'
import { plural } from '../../text'

/**
 * Collects what a format cannot hold of a timeline. In a message `# events` stands for how many: `1 event`, `12
 * events`.
 */
export function losses(
  where: string,
  fix: string,
): { problems: Problem[]; lose: (n: number, code: string, message: string) => void } {
  const problems: Problem[] = []
  return {
    problems,
    lose: (n, code, message) => {
      if (n > 0)
        problems.push({
          code,
          message: message.replace(/# (\w+)s\b/, (_, noun: string) => plural(n, noun)),
          where,
          fix,
        })
    },
  }
}
