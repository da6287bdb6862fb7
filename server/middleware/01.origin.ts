/**
 * Refuses what comes from other origins, and names that are not this machine's: pages elsewhere must not reach the
 * engine.
 */
export default defineEventHandler((event) => {
  const host = getRequestHeader(event, 'host') ?? ''
  const name = host.replace(/:\d+$/, '')
  const origin = getRequestHeader(event, 'origin')
  const foreign = origin !== undefined && origin !== `http://${host}` && origin !== `https://${host}`
  const site = getRequestHeader(event, 'sec-fetch-site')
  // following a link to the page itself is fine; reaching the engine from elsewhere is not
  const crossSite = event.path.startsWith('/api/') && (site === 'cross-site' || site === 'same-site')
  if (!servedNames().has(name) || foreign || crossSite) {
    setResponseStatus(event, 403)
    return {
      error: {
        code: 'request.foreign',
        message: 'This request comes from another origin and is refused.',
        fix: 'Open the address the launcher printed.',
      },
    }
  }
})
