import { said, type Measure } from './measure'

/** Names of the programme metadata that was typed. */
export const metadata: Measure = {
  name: 'metadata',
  label: 'Programme metadata',
  group: 'metadata',
  counts: true,
  read({ metadata: fields }) {
    if (!fields) return null
    const typed = Object.entries(fields).filter(([, v]) => v.trim() !== '')
    return said(
      typed.map(([k]) => k),
      typed.map(([k, v]) => `${k} ${v}`).join(', ') || 'none typed',
    )
  },
}
