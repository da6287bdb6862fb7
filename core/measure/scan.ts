import type { Scan } from '../media/media'
import { namedWords, ofPictures, said } from './measure'

const labels: Readonly<Record<Scan, string>> = {
  progressive: 'progressive',
  segmented: 'segmented frames (PsF)',
  'interlaced-tff': 'interlaced, top field first',
  'interlaced-bff': 'interlaced, bottom field first',
  interlaced: 'interlaced, order not said',
}
const label = (scan: string) => labels[scan as Scan] ?? scan

export const scan = ofPictures('scan', 'Scan', (v) => said(v.scan, label(v.scan)), { words: namedWords(label) })
