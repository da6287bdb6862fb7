import { scanText } from '../media/scan'
import { namedWords, ofPictures, said } from './measure'

export const scan = ofPictures('scan', 'Scan', (v) => said(v.scan, scanText(v.scan)), { words: namedWords(scanText) })
