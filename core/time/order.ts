// Finding one's place in what lies in order.

/**
 * Index of the last of `count` things that something holds for, where it holds for all before it as well; −1 when it
 * holds for none.
 */
export function lastWhere(count: number, holds: (index: number) => boolean): number {
  let low = 0
  let high = count - 1
  while (low <= high) {
    const mid = (low + high) >> 1
    if (holds(mid)) low = mid + 1
    else high = mid - 1
  }
  return high
}

/** Index of the last of `sorted` that is at or before `at`; −1 when all lie after. */
export function lastAtOrBefore(sorted: ArrayLike<number>, at: number): number {
  return lastWhere(sorted.length, (i) => sorted[i]! <= at)
}
