import { ofPictures, said } from './measure'

export const scan = ofPictures('scan', 'Scan', (v) => said(v.scan))
