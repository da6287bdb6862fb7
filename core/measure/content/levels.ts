import type { Measure } from '../measure'
import { ofStretches } from './stretches'

/**
 * Stretches in which more than 1 % of the picture lies outside −1 … 103 % in luma, or −5 … 105 % in R′G′B′ (EBU R 103).
 */
export const levels: Measure = {
  ...ofStretches('levels', 'Levels', (p) => p.levels?.excursions),
  ofLevels: true,
}
