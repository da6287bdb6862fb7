/** The fields of a region's papers that were filled in. */
export function filledIn(metadata: Readonly<Record<string, string>>): Record<string, string> {
  return Object.fromEntries(Object.entries(metadata).filter(([, value]) => value.trim() !== ''))
}
