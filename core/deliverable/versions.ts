/** The key under which two paths are the same file on a system that ignores case. */
export function pathKey(path: string): string {
  return path.normalize('NFC').toLowerCase()
}

/** Paths that more than one deliverable would get, by key. */
export function collisions(paths: readonly string[]): Map<string, number[]> {
  const byKey = new Map<string, number[]>()
  paths.forEach((p, i) => {
    const key = pathKey(p)
    const list = byKey.get(key)
    if (list) list.push(i)
    else byKey.set(key, [i])
  })
  return new Map([...byKey].filter(([, list]) => list.length > 1))
}

/** `v01`, `v02` … */
export function versionLabel(version: number): string {
  return `v${String(version).padStart(2, '0')}`
}

/**
 * The first path that is free: `make(1)`, `make(2)` … where the pattern holds a version, else `_v02`, `_v03` … before
 * the extension. `taken` answers for what is on disk and what this run has already promised.
 */
export function freePath(
  make: (version: number) => string,
  taken: (path: string) => boolean,
): { path: string; version: number } {
  const first = make(1)
  if (!taken(first)) return { path: first, version: 1 }
  const versioned = make(2) !== first
  for (let version = 2; version < 1000; version++) {
    const path = versioned
      ? make(version)
      : first.replace(/(\.[A-Za-z0-9]+)?$/, (ext) => `_${versionLabel(version)}${ext}`)
    if (!taken(path)) return { path, version }
  }
  return { path: first, version: 1000 }
}
