import { ofLineUp } from './lineup'

/** Seconds of the clock in front of a programme. */
export const clockLength = ofLineUp('clock-length', 'Clock length', 'clock')
