import { ofStretches } from './stretches'

/** Stretches in which more than 1 % of the picture lies outside −5 … 105 % (EBU R 103). */
export const levels = ofStretches('levels', 'Levels', (p) => p.levels?.excursions)
