import { brandLabel, brands } from '../../container/registry'
import { inWords, said, type Measure } from '../measure'

export const container: Measure = {
  name: 'container',
  label: 'Container',
  group: 'structure',
  read: ({ described: d }) => (d ? said(d.container, brandLabel(d.container)) : null),
  ...inWords(() => brands().map((b) => b.name), brandLabel),
}
