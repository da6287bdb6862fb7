/** Opens the engine with the server, so that interrupted runs go on at once, and closes it with the server. */
export default defineNitroPlugin((nitro) => {
  const opened = useEngine()
  opened.catch((e: unknown) => {
    console.error(`The engine could not be opened: ${e instanceof Error ? e.message : String(e)}`)
    process.exit(1)
  })
  nitro.hooks.hook('close', async () => (await opened).close())
})
