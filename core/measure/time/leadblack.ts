import { ofLineUp } from './lineup'

/** Seconds of black from which a programme begins, behind its line-up. */
export const leadBlack = ofLineUp('lead-black', 'Black before programme', 'black')
