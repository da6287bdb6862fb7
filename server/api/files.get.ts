/** The storage roots, or what is in a folder of one. */
export default route(async (engine, event) => {
  const { root, path } = getQuery(event) as { root?: string; path?: string }
  if (!root)
    return {
      roots: await Promise.all(
        engine.roots.list.map(async (r) => ({ ...r, free: await engine.roots.free(r.name).catch(() => 0) })),
      ),
      entries: [],
    }
  return { roots: [], entries: await engine.roots.entries(root, path ?? '') }
})
