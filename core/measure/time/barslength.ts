import { ofLineUp } from './lineup'

/** Seconds of line-up: of bars, a still picture or a tone. */
export const barsLength = ofLineUp('line-up-length', 'Line-up length', 'line-up')
