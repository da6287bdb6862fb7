import { namedWords, said, type Measure } from './measure'

export const container: Measure = {
  name: 'container',
  label: 'Container',
  group: 'structure',
  read: ({ described: d }) => (d ? said(d.container, d.container.toUpperCase()) : null),
  words: namedWords((name) => name.toUpperCase()),
}
