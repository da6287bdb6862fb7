import { ofPictures, said } from '../measure'

/** The level of a codec that its pictures say they need. */
export const level = ofPictures('level', 'Level', (v) => (v.level ? said(v.level) : null))
