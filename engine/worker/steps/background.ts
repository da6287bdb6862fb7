import type { BackgroundStep } from '../background'
import { analyseSegment, mergeSegments } from './analysepictures'
import { analyseSound } from './analysesound'
import { comparePictures } from './comparepictures'
import { measureReceived } from './measurefile'
import { measurePictures, measureSound } from './measureregion'
import { holdSums } from './holdsums'
import { readUnits } from './readunits'
import { sumMedia } from './summedia'
import { makeTryout } from './tryout'

/** Background work by kind: each gives the value of its fact. A new one is its file and its line here. */
export const backgroundSteps: Record<string, (step: BackgroundStep) => Promise<unknown>> = {
  'analyse-segment': analyseSegment,
  'merge-segments': mergeSegments,
  'analyse-sound': analyseSound,
  'measure-sound': measureSound,
  'measure-pictures': measurePictures,
  'compare-pictures': comparePictures,
  'sum-media': sumMedia,
  'read-units': readUnits,
  'measure-file': measureReceived,
  'hold-sums': holdSums,
  tryout: makeTryout,
}
