/**
 * A failure the operator can meet: what happened, where, and what to do.
 * `code` is stable (`area.reason`); `where` names a file, line, byte or timecode.
 */
export interface Problem {
  readonly code: string
  readonly message: string
  readonly where?: string
  readonly fix?: string
  /** Set where a file itself is not whole: what was read of it is not all there should be. */
  readonly damage?: true
}

/** Carries a {@link Problem} up the stack to whoever can show it. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.message)
    this.name = 'ProblemError'
  }
}

/** Throws a problem; typed `never` so that callers narrow. */
export function fail(code: string, message: string, where?: string, fix?: string): never {
  throw new ProblemError({ code, message, where, fix })
}

/** Turns anything thrown into a problem; unknown errors keep their message under `internal.error`. */
export function toProblem(thrown: unknown, where?: string): Problem {
  if (thrown instanceof ProblemError)
    return thrown.problem.where || !where ? thrown.problem : { ...thrown.problem, where }
  const error = thrown as { code?: string; message?: string; path?: string } | undefined
  const place = where ?? error?.path
  switch (error?.code) {
    case 'ENOSPC':
      return {
        code: 'disk.full',
        message: 'The disk is full.',
        where: place,
        fix: 'Free some room or choose another destination, then run it again.',
      }
    case 'ENOENT':
      return {
        code: 'file.missing',
        message: 'The file or folder is not there any more.',
        where: place,
        fix: 'Bring the drive back or link the media again.',
      }
    case 'EROFS':
      return {
        code: 'disk.read-only',
        message: 'The disk can only be read.',
        where: place,
        fix: 'Unlock it or mount it for writing, or choose another destination.',
      }
    case 'EACCES':
    case 'EPERM':
      return {
        code: 'file.not-allowed',
        message: 'The system does not allow this file or folder to be used.',
        where: place,
        fix: 'Check its permissions, or choose another place.',
      }
    case 'EIO':
      return {
        code: 'disk.error',
        message: 'The disk reported an error while reading or writing.',
        where: place,
        fix: 'Copy the material to another drive and try again.',
      }
  }
  return { code: 'internal.error', message: error?.message ?? String(thrown), where: place }
}

/** One line for a terminal or a log. */
export function problemText(p: Problem): string {
  return [p.where ? `${p.where}: ${p.message}` : p.message, p.fix].filter(Boolean).join(' ')
}
