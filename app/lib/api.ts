import type { AnswerOf, BodyOf, ParamsOf, RouteName } from '../../contract/routes'
import type { FilePath } from '../../core/media/filepath'
import { ProblemError, type Problem } from '../../core/problem'

/** What a request of a route says: the variable parts of its path, its body, and what stands after `?`. */
export type Asked<R extends RouteName> = {
  readonly query?: Readonly<Record<string, string>>
} & (keyof ParamsOf<R> extends never ? unknown : { readonly params: ParamsOf<R> }) &
  (BodyOf<R> extends undefined ? unknown : { readonly body: BodyOf<R> })
/** A request that has to say nothing may be left out. */
export type AskedOf<R extends RouteName> = object extends Asked<R> ? [asked?: Asked<R>] : [asked: Asked<R>]

/** The method and the address of a request. */
export function addressOf<R extends RouteName>(route: R, ...[asked]: AskedOf<R>): { method: string; url: string } {
  const { params = {}, query } = (asked ?? {}) as { params?: Record<string, string>; query?: Record<string, string> }
  const [method, path] = route.split(' ') as [string, string]
  const filled = path.replace(/:(\w+)/g, (_, name: string) => encodeURIComponent(params[name]!))
  return { method, url: `/api/${filled}${query ? `?${new URLSearchParams(query).toString()}` : ''}` }
}

/** Asks the server; an answer that is a problem is thrown as one, and so is a server that does not answer. */
export async function api<R extends RouteName>(route: R, ...asked: AskedOf<R>): Promise<AnswerOf<R>> {
  const { method, url } = addressOf(route, ...asked)
  const { body } = (asked[0] ?? {}) as { body?: unknown }
  let response: Response
  try {
    response = await fetch(url, {
      method,
      ...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
    })
  } catch {
    throw new ProblemError({
      code: 'server.silent',
      message: 'The server does not answer.',
      fix: 'Start it again with ./velvet; nothing that was saved is lost.',
    })
  }
  const answer = (await response.json().catch(() => null)) as { error?: Problem } | null
  if (!response.ok)
    throw new ProblemError(
      answer?.error ?? { code: 'server.error', message: `The server answered ${response.status}.` },
    )
  return answer as AnswerOf<R>
}

/** Uploads a file with progress 0…1; `abort` ends it. */
export function upload(file: File, progress: (share: number) => void): { done: Promise<FilePath>; abort: () => void } {
  const request = new XMLHttpRequest()
  const done = new Promise<FilePath>((resolve, reject) => {
    const { method, url } = addressOf('PUT upload', { query: { name: file.name } })
    request.open(method, url)
    request.upload.onprogress = (e) => progress(e.loaded / Math.max(1, e.total))
    request.onload = () => {
      const answer = JSON.parse(request.responseText || 'null') as FilePath & { error?: Problem }
      if (request.status < 300) resolve(answer)
      else
        reject(
          new ProblemError(
            answer?.error ?? {
              code: 'upload.failed',
              message: `The upload ended with ${request.status}.`,
              where: file.name,
            },
          ),
        )
    }
    request.onerror = () =>
      reject(
        new ProblemError({
          code: 'upload.failed',
          message: 'The upload was interrupted.',
          where: file.name,
          fix: 'Drop the file again, or put it below a storage root and choose it there.',
        }),
      )
    request.onabort = () =>
      reject(new ProblemError({ code: 'upload.stopped', message: 'The upload was stopped.', where: file.name }))
    request.send(file)
  })
  return { done, abort: () => request.abort() }
}
