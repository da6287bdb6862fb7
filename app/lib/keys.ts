/** Whether a key is typed into a field or pressed in a dialog, so that it is none of the station's. */
export function isTyping(e: KeyboardEvent): boolean {
  const target = e.target as HTMLElement
  // Space and Enter on a button, a link or a box are that one's own
  if ((e.key === ' ' || e.key === 'Enter') && target.closest('button, a, [type=checkbox]')) return true
  return target.closest('input:not([type=checkbox]), textarea, select, [role=dialog]') !== null
}
