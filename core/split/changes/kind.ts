import { kindNames, regionKinds, type KindOfRegion } from '../kinds'
import { choice } from '../settings'
import { regionChange } from './change'

/** What they are, as outlets ask for it. */
export const kind = regionChange({
  name: 'kind',
  label: 'say what they are',
  hint: 'Programmes, promos, textless elements: what outlets ask for.',
  settings: {
    as: choice<KindOfRegion | 'none'>('They are', [
      ...kindNames.map((k) => [k, regionKinds[k].many] as [KindOfRegion, string]),
      ['none', 'of no kind'],
    ]),
  },
  apply: (regions, { as }) => regions.map(({ kind: _was, ...r }) => (as === 'none' ? r : { ...r, kind: as })),
})
