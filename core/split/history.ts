/** A value with the steps that led to it, so that each can be undone and redone by name. */
export interface History<T> {
  readonly past: readonly Step<T>[]
  readonly present: T
  readonly future: readonly Step<T>[]
}

/** The value on the other side of a step, and what the step was called. */
export interface Step<T> {
  readonly label: string
  readonly value: T
}

const depth = 200

export function startHistory<T>(present: T): History<T> {
  return { past: [], present, future: [] }
}

/** Pushes a step. Steps of one `merge` label in a row (a drag) count as one. */
export function push<T>(h: History<T>, label: string, present: T, merge = false): History<T> {
  if (present === h.present) return h
  if (merge && h.past.at(-1)?.label === label) return { past: h.past, present, future: [] }
  return { past: [...h.past, { label, value: h.present }].slice(-depth), present, future: [] }
}

export function undo<T>(h: History<T>): History<T> {
  const last = h.past.at(-1)
  return last
    ? { past: h.past.slice(0, -1), present: last.value, future: [{ label: last.label, value: h.present }, ...h.future] }
    : h
}

export function redo<T>(h: History<T>): History<T> {
  const next = h.future[0]
  return next
    ? { past: [...h.past, { label: next.label, value: h.present }], present: next.value, future: h.future.slice(1) }
    : h
}
