import { problemText, toProblem } from '../../core/problem'
import { log } from '../../engine/log'

/** Opens the session with the server, so that interrupted runs go on at once, and closes it with the server. */
export default defineNitroPlugin((nitro) => {
  const opened = openedSession()
  opened.catch((e: unknown) => {
    console.error(`${problemText(toProblem(e))}`)
    process.exit(1)
  })
  // what thousands of deliverables are like is worked out before the first page asks
  opened.then((s) => s.live.refresh()).catch((err: unknown) => log().error({ err }, 'deliverables were not worked out'))
  // a reel may take hours to come in: requests end with their connection, not after five minutes
  nitro.hooks.hook('request', (event) => {
    const { server } = event.node.req.socket as { server?: { requestTimeout: number } }
    if (server) server.requestTimeout = 0
  })
  const key = accessKey()
  if (key !== null) {
    const port = process.env.NITRO_PORT ?? process.env.PORT ?? '3000'
    for (const name of addressesForOthers()) console.error(`velvet: others open  http://${name}:${port}/?key=${key}`)
  }
  nitro.hooks.hook('close', async () => (await opened).close())
})
