import { methodsOf } from '../../contract/routes'

/** What no route takes: a path that is not there, or a method that it does not have. */
export default defineEventHandler((event) => {
  const path = (getRouterParam(event, 'path') ?? '').replace(/\/$/, '')
  const methods = methodsOf(path)
  setResponseStatus(event, methods ? 405 : 404)
  if (methods) setResponseHeader(event, 'allow', methods.join(', '))
  return {
    error: methods
      ? {
          code: 'request.method',
          message: `“${path}” cannot be asked with ${event.method}.`,
          where: path,
          fix: `Use ${methods.join(' or ')}.`,
        }
      : {
          code: 'request.unknown',
          message: `There is nothing at “${path}”.`,
          where: path,
          fix: 'Check the address.',
        },
  }
})
