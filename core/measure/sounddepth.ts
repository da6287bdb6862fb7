import { ofSound, said, wanted } from './measure'

export const soundDepth = ofSound('sound-depth', 'Sound depth', (a) => said(a.bitDepth, `${a.bitDepth} bit`), {
  unit: ' bit',
  fix({ expect }) {
    const depth = wanted(expect)
    return depth === 16 || depth === 24 ? { soundDepth: depth } : null
  },
})
