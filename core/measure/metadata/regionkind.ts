import { kindNamed, regionKinds } from '../../split/kinds'
import { said, type Measure } from '../measure'

/** What a region was said to be: a programme, a promo. */
export const regionKind: Measure = {
  name: 'region-kind',
  label: 'Kind of region',
  group: 'metadata',
  stage: 'before',
  read({ kind }) {
    if (kind === undefined) return null
    return kind === null ? said('none', 'of no kind') : said(kind, regionKinds[kind].one)
  },
  words: (e) => ('oneOf' in e ? e.oneOf.map((k) => manyOf(String(k))).join(', ') : null),
}

function manyOf(text: string): string {
  const kind = kindNamed(text)
  return kind ? regionKinds[kind].many : text
}
