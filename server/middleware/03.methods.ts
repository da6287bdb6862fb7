import { methodsOf } from '../../contract/routes'

/** Answers what no route takes: a path that is not there, or a method that it does not have. */
export default defineEventHandler((event) => {
  const path = /^\/api\/([^?]*)/.exec(event.path)?.[1]?.replace(/\/$/, '')
  if (path === undefined) return
  const methods = methodsOf(path)
  if (methods?.includes(event.method === 'HEAD' ? 'GET' : event.method)) return
  setResponseStatus(event, methods ? 405 : 404)
  if (!methods)
    return {
      error: {
        code: 'request.unknown',
        message: `There is nothing at “${path}”.`,
        where: path,
        fix: 'Check the address.',
      },
    }
  setResponseHeader(event, 'allow', methods.join(', '))
  return {
    error: {
      code: 'request.method',
      message: `“${path}” cannot be asked with ${event.method}.`,
      where: path,
      fix: `Use ${methods.join(' or ')}.`,
    },
  }
})
