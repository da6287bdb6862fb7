import { brandLabel, brands } from '../../container/registry'
import { said, type Measure } from '../measure'
import { inWords } from '../words'

export const container: Measure = {
  name: 'container',
  label: 'Container',
  group: 'structure',
  read: ({ described: d }) => (d ? said(d.container, brandLabel(d.container)) : null),
  ...inWords(() => brands().map((b) => b.name), brandLabel),
}
