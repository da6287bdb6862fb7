import { said, type Measure } from '../measure'

/** The name without its folder; empty when it cannot be used. */
export const fileName: Measure = {
  name: 'file-name',
  label: 'File name',
  group: 'metadata',
  read({ name }) {
    if (!name) return null
    return name.bad ? said('', `${name.file} (${name.bad})`) : said(name.file)
  },
  words: (e) => ('matches' in e && e.matches === '.' ? 'usable, and its own' : null),
}
