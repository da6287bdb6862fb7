/**
 * Lets in who has the key, when others than this machine are served: shown once in the printed address, then kept in a
 * cookie.
 */
export default defineEventHandler((event) => {
  const key = accessKey()
  if (key === null || isKey(getCookie(event, 'velvet-key'), key)) return
  // machines that take part in the work have no cookies (RFC 6750 2.1)
  if (isKey(/^Bearer (.+)$/.exec(getRequestHeader(event, 'authorization') ?? '')?.[1], key)) return
  const shown = getQuery(event).key
  if (typeof shown === 'string' && isKey(shown, key)) {
    setCookie(event, 'velvet-key', key, { httpOnly: true, sameSite: 'strict', path: '/', maxAge: 30 * 24 * 3600 })
    // to this server alone: a path of two slashes would name another
    return sendRedirect(event, event.path.replace(/\?.*$/s, '').replace(/^\/+/, '/'))
  }
  setResponseStatus(event, 401)
  return {
    error: {
      code: 'request.no-key',
      message: 'This server asks for its access key.',
      fix: 'Open the address that was printed where it was started, with the key in it, once in this browser.',
    },
  }
})
