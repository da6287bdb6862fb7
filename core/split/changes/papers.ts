import { fail } from '../../problem'
import { filledIn } from '../papers'
import { readPapers } from '../papersxml'
import { regionChange } from './change'

const key = (name: string) => name.trim().toLowerCase()

/** Papers from an XML file: those of all regions, and those of the regions it names. */
export const papers = regionChange({
  name: 'papers',
  label: 'papers from XML',
  hint: 'Fills fields in from a file: for all of them, and for those it names; an empty value takes a field away.',
  settings: { xml: { kind: 'lines', label: 'Papers as XML', hint: '<papers> … </papers>', initial: '' } },
  apply(regions, { xml }, { all }) {
    if (xml.trim() === '') return regions
    const file = readPapers(xml, 'papers')
    const there = new Set(all.map((r) => key(r.name)))
    const unknown = file.regions.find((r) => !there.has(key(r.name)))
    if (unknown)
      fail(
        'papers.no-region',
        `No region is called “${unknown.name}”.`,
        'papers',
        'Give the region this name, or change it in the file.',
      )
    const own = new Map(file.regions.map((r) => [key(r.name), r.fields]))
    return regions.map((r) => ({
      ...r,
      metadata: filledIn({ ...r.metadata, ...file.all, ...own.get(key(r.name)) }),
    }))
  },
})
