import { ofStretches } from './stretches'

/** Stretches that stand still for a second or more. */
export const freeze = ofStretches('freeze', 'Frozen pictures', (p) => p.freeze)
