import { ofPictures, said } from '../measure'

export const profile = ofPictures('profile', 'Profile', (v) => (v.profile ? said(v.profile) : null))
