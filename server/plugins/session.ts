import { problemText, toProblem } from '../../core/problem'

/** Opens the session with the server, so that interrupted runs go on at once, and closes it with the server. */
export default defineNitroPlugin((nitro) => {
  const opened = openedSession()
  opened.catch((e: unknown) => {
    console.error(`${problemText(toProblem(e))}`)
    process.exit(1)
  })
  nitro.hooks.hook('close', async () => (await opened).close())
})
