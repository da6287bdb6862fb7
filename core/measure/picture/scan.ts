import { hasFields, scanSchema, scanText } from '../../media/scan'
import { canPair } from '../../recipe/pairs'
import { ifTold, ofPictures, wanted } from '../measure'
import { inWords } from '../words'

export const scan = ofPictures('scan', 'Scan', (v) => ifTold(v, 'scan', scanText(v.scan)), {
  ...inWords(() => scanSchema.options, scanText),
  fix({ expect, media }) {
    const [v] = media.video
    const [asked, own] = [wanted(expect), v?.scan ?? 'interlaced']
    if (asked === 'segmented' && own === 'progressive') return { scan: asked }
    const turns = hasFields(own) && own !== 'interlaced'
    const made = v !== undefined && canPair(v, v.rate)
    return (turns || made) && (asked === 'interlaced-tff' || asked === 'interlaced-bff') ? { scan: asked } : null
  },
})
