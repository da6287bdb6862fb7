/** The storage roots, or what is in a folder of one. */
export default route('GET files', async ({ roots }, { event }) => {
  const { root, path } = getQuery(event) as { root?: string; path?: string }
  if (root) return { roots: [], entries: await roots.entries(root, path ?? '') }
  const all = roots.list.map(async ({ name, path: folder }) => ({
    name,
    path: folder,
    free: await roots.disk(name).then(
      ({ free }) => free,
      () => 0,
    ),
    away: roots.away(name),
  }))
  return { roots: await Promise.all(all), entries: [] }
})
