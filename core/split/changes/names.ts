import { regionNames } from '../naming'
import { choice } from '../settings'
import { regionChange } from './change'

/** Names in series, by a pattern. */
export const series = regionChange({
  name: 'series',
  label: 'name in series',
  hint: 'Names by a pattern; numbers in the order of the timeline.',
  settings: {
    pattern: { kind: 'pattern', label: 'Pattern', initial: '{number} {name}' },
    first: { kind: 'count', label: 'First number', initial: 1, least: 0 },
  },
  apply(regions, { pattern, first }, context) {
    const names = regionNames(pattern, regions, { ...context, first })
    return regions.map((r, i) => ({ ...r, name: names[i]! }))
  },
})

/** Text in names replaced by other text. */
export const replace = regionChange({
  name: 'replace',
  label: 'find and replace',
  hint: 'Replaces text in names wherever it stands; capitals and small letters count.',
  settings: {
    find: { kind: 'text', label: 'Find', initial: '' },
    by: { kind: 'text', label: 'Replace by', initial: '' },
  },
  apply: (regions, { find, by }) =>
    regions.map((r) => (find !== '' && r.name.includes(find) ? { ...r, name: r.name.replaceAll(find, () => by) } : r)),
})

/** Capitals at the beginning of each word. */
const titled = (text: string) =>
  text.replace(/(^|[\s–—(-])(\p{Ll})/gu, (_, before: string, letter: string) => before + letter.toUpperCase())

/** Capitals or small letters in names. */
export const letters = regionChange({
  name: 'letters',
  label: 'capitals, small letters',
  hint: 'Writes names in capitals, in small letters, or with a capital at each word.',
  settings: {
    as: choice<'upper' | 'lower' | 'title'>('Write names in', [
      ['upper', 'CAPITALS'],
      ['lower', 'small letters'],
      ['title', 'A Capital At Each Word'],
    ]),
  },
  apply: (regions, { as }) =>
    regions.map((r) => {
      const small = r.name.toLowerCase()
      return { ...r, name: { upper: r.name.toUpperCase(), lower: small, title: titled(small) }[as] }
    }),
})
