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
 * A path below a version: as `make` gives it where that tells versions apart, else with `_v02`, `_v03` … behind it.
 */
export function versioned(make: (version: number) => string): (version: number) => string {
  const first = make(1)
  return (version) => {
    const own = make(version)
    return version > 1 && own === first ? `${first}_${versionLabel(version)}` : own
  }
}

/** The first path that is free, of all versions; `taken` answers for what is on disk. */
export function freePath(
  make: (version: number) => string,
  taken: (path: string) => boolean,
): { path: string; version: number } {
  for (let version = 1; version < 1000; version++) {
    const path = make(version)
    if (!taken(path)) return { path, version }
  }
  return { path: make(1), version: 1000 }
}
