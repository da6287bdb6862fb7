/** The storage roots, or what is in a folder of one. */
export default route('GET files', async (session, { event }) => {
  const { root, path } = getQuery(event) as { root?: string; path?: string }
  if (!root)
    return {
      roots: await Promise.all(
        session.roots.list.map(async (r) => ({ ...r, free: await session.roots.free(r.name).catch(() => 0) })),
      ),
      entries: [],
    }
  return { roots: [], entries: await session.roots.entries(root, path ?? '') }
})
