import { codecLabel, soundCodec } from '../../codec/registry'
import { notTold, ofSound, said, wanted, type Described } from '../measure'

/** Bits of samples; none of sound that is coded by what is heard, and nobody knows of a codec not known here. */
function depthOf(a: NonNullable<Described['audio']>) {
  const codec = soundCodec(a.codec)
  if (!codec) return said(null, `${codecLabel(a.codec)} is not looked into here`)
  if (!codec.keepsDepth) return said('none', `none: ${codec.label} keeps no depth`)
  const text = `${a.bitDepth} bit`
  return a.untold?.includes('bitDepth') ? said(null, notTold(text)) : said(a.bitDepth, text)
}

export const soundDepth = ofSound('sound-depth', 'Sound depth', depthOf, {
  unit: ' bit',
  fix({ expect }) {
    const depth = wanted(expect)
    return depth === 16 || depth === 24 ? { soundDepth: depth } : null
  },
})
