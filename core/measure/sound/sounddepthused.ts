import { codecLabel, soundCodec } from '../../codec/registry'
import { said, type Measure } from '../measure'

/** The most bits that can be told: samples are decoded into floats, which have no more for certain. */
const mostTold = 24

const filledUp = (bits: number, text: string) => ({ ...said('filled up', text), faults: [`${bits} bits`] })

/** Whether all the bits that a sound is written in carry anything, or it was filled up with noughts. */
export const soundDepthUsed: Measure = {
  name: 'sound-depth-used',
  label: 'Sound depth used',
  group: 'sound',
  counts: true,
  stage: 'written',
  read({ described, carried, had }) {
    if (!described) return null
    const { audio } = described
    if (!audio) return said('none', 'no sound')
    if (soundCodec(audio.codec) && !soundCodec(audio.codec)!.keepsDepth)
      return said('none', `none: ${codecLabel(audio.codec)} keeps no depth`)
    const { bitDepth } = audio
    if (carried === undefined) {
      // of as many bits or more it is not known how many of them carry anything
      if (had === undefined || had >= Math.min(bitDepth, mostTold)) return null
      return filledUp(had, `${bitDepth} bit, of which the source has ${had}: the lowest will be nought`)
    }
    if (carried === 'floats') return said('none', 'none: floating point')
    if (carried === null) return said('none', `${bitDepth} bit, and silence`)
    return carried >= Math.min(bitDepth, mostTold)
      ? said('all', `${bitDepth} bit, all of them`)
      : filledUp(carried, `${bitDepth} bit, of which only ${carried} carry anything: the lowest are always nought`)
  },
  words: () => 'all of them',
}
