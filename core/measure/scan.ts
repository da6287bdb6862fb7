import { hasFields, scanText } from '../media/scan'
import { namedWords, ofPictures, said, wanted } from './measure'

export const scan = ofPictures('scan', 'Scan', (v) => said(v.scan, scanText(v.scan)), {
  words: namedWords(scanText),
  fix({ expect, media }) {
    const [asked, own] = [wanted(expect), media.video[0]?.scan ?? 'interlaced']
    if (asked === 'segmented' && own === 'progressive') return { scan: asked }
    const turns = hasFields(own) && own !== 'interlaced'
    return turns && (asked === 'interlaced-tff' || asked === 'interlaced-bff') ? { scan: asked } : null
  },
})
