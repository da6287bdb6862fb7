import { ofStretches } from './stretches'

/** Stretches of more than three flashes a second (ITU-R BT.1702); a warning instrument. */
export const flashes = ofStretches('flashes', 'Flashes', (p) => p.flashes)
