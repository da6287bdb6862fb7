import { brandLabel } from '../../container/registry'
import { namedWords, said, type Measure } from '../measure'

export const container: Measure = {
  name: 'container',
  label: 'Container',
  group: 'structure',
  read: ({ described: d }) => (d ? said(d.container, brandLabel(d.container)) : null),
  words: namedWords(brandLabel),
}
