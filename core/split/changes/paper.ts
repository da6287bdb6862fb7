import { regionChange } from './change'

/** One field of their papers. */
export const paper = regionChange({
  name: 'paper',
  label: 'fill in a paper',
  hint: 'Fills a field of the papers in for all of them; nothing takes it away.',
  settings: {
    field: { kind: 'text', label: 'Field', initial: 'production number' },
    value: { kind: 'text', label: 'Value', initial: '' },
  },
  apply: (regions, { field, value }) =>
    regions.map((r) => {
      const { [field.trim()]: _was, ...rest } = r.metadata
      if (field.trim() === '') return r
      return { ...r, metadata: value.trim() === '' ? rest : { ...rest, [field.trim()]: value.trim() } }
    }),
})
