import stations from './stations.json'

/** What the browser's tab says: how far a night is, where one is, and whose page it is. */
export function pageTitle(
  path: string,
  timeline: string | undefined,
  night?: { readonly state: string; readonly items: readonly { readonly state: string }[] } | null,
): string {
  const finished = night?.items.filter((i) => i.state !== 'waiting' && i.state !== 'running').length ?? 0
  const running = night?.state === 'running' ? `${finished}/${night.items.length}` : null
  const station = stations.find((s) => path.startsWith(s.path))?.name
  const here = station === 'Desk' ? (timeline ?? station) : station
  return [running, here, 'Velvet Crane'].filter(Boolean).join(' · ')
}
