/** How many letters have to be changed, added, left out or swapped to come from one word to another. */
function distance(a: string, b: string): number {
  let before: number[] = []
  let row = Array.from({ length: b.length + 1 }, (_, k) => k)
  for (let i = 1; i <= a.length; i++) {
    const next = [i]
    for (let k = 1; k <= b.length; k++) {
      const change = row[k - 1]! + (a[i - 1] === b[k - 1] ? 0 : 1)
      next[k] = Math.min(change, row[k]! + 1, next[k - 1]! + 1)
      if (i > 1 && k > 1 && a[i - 1] === b[k - 2] && a[i - 2] === b[k - 1])
        next[k] = Math.min(next[k]!, before[k - 2]! + 1)
    }
    before = row
    row = next
  }
  return row[b.length]!
}

/** The word that was probably meant, when one is near enough to say so. */
export function nearest(word: string, known: readonly string[]): string | null {
  const plain = (s: string) => s.replace(/^-+|-/g, '')
  const [best] = known
    .map((k) => ({ k, off: distance(plain(word), plain(k)) }))
    .filter(({ k, off }) => off <= Math.max(1, Math.floor(plain(k).length / 3)))
    .sort((a, b) => a.off - b.off)
  return best?.k ?? null
}
