/** Small pictures for canvases: loaded when asked for, the newest few hundred kept. */
const kept = new Map<string, HTMLImageElement>()
const most = 500

/** The picture when it is there; else it is fetched and `ready` is called. */
export function still(url: string, ready: () => void): HTMLImageElement | null {
  const there = kept.get(url)
  if (there) {
    kept.delete(url)
    kept.set(url, there)
    return there.complete && there.naturalWidth > 0 ? there : null
  }
  const image = new Image()
  image.decoding = 'async'
  image.onload = ready
  image.onerror = () => setTimeout(() => kept.delete(url), 2000)
  image.src = url
  kept.set(url, image)
  if (kept.size > most) kept.delete(kept.keys().next().value!)
  return null
}

/** Where a picture of a timeline is; other media means another address, so that no old picture is shown. */
export function frameUrl(
  t: { readonly id: string; readonly fingerprint: { readonly content: string } },
  frame: number,
  width: number,
): string {
  return `/api/timelines/${t.id}/frames/${frame}.jpg?w=${width}&of=${t.fingerprint.content}`
}
