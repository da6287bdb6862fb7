import { RE2JS } from 're2js'

const compiled = new Map<string, RE2JS | null>()

/**
 * A regular expression of a specification, compiled once: in RE2's syntax, whose matching takes time in proportion to
 * the text whatever the expression. Null when it is none.
 */
export function patternOf(text: string): RE2JS | null {
  const kept = compiled.get(text)
  if (kept !== undefined) return kept
  let pattern: RE2JS | null = null
  try {
    pattern = RE2JS.compile(text)
  } catch {
    // what is no expression stays null
  }
  if (compiled.size > 1000) compiled.clear()
  compiled.set(text, pattern)
  return pattern
}
