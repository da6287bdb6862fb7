import { ProblemError, type Problem } from '../../core/problem'

/** Asks the server; an answer that is a problem is thrown as one, and so is a server that does not answer. */
export async function api<T>(path: string, options: { method?: string; body?: unknown } = {}): Promise<T> {
  let response: Response
  try {
    response = await fetch(`/api/${path}`, {
      method: options.method ?? 'GET',
      ...(options.body === undefined
        ? {}
        : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(options.body) }),
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
  return answer as T
}

/** Uploads a file with progress 0…1; `abort` ends it. */
export function upload(
  file: File,
  progress: (share: number) => void,
): { done: Promise<{ root: string; path: string }>; abort: () => void } {
  const request = new XMLHttpRequest()
  const done = new Promise<{ root: string; path: string }>((resolve, reject) => {
    request.open('PUT', `/api/upload?name=${encodeURIComponent(file.name)}`)
    request.upload.onprogress = (e) => progress(e.loaded / Math.max(1, e.total))
    request.onload = () => {
      const answer = JSON.parse(request.responseText || 'null') as { root: string; path: string } & { error?: Problem }
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
