import { ofStretches } from './stretches'

/** Stretches that are all black. */
export const black = ofStretches('black', 'Black', (p) => p.black)
