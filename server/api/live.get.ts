/** Tells a page what changes, as server-sent events, for as long as it listens. */
export default defineEventHandler(async (event) => {
  const session = await openedSession()
  const stream = createEventStream(event)
  const leave = session.live.subscribe((e) => void stream.push(JSON.stringify(e)).catch(() => undefined))
  stream.onClosed(leave)
  return stream.send()
})
