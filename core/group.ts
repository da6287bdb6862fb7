/** What is in a list by a key of each, in their order. */
export function grouped<T, K>(list: Iterable<T>, keyOf: (item: T) => K): Map<K, T[]> {
  const out = new Map<K, T[]>()
  for (const item of list) {
    const key = keyOf(item)
    const group = out.get(key)
    if (group) group.push(item)
    else out.set(key, [item])
  }
  return out
}
