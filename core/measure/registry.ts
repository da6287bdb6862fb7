import { alpha } from './alpha'
import { drawn } from './drawn'
import { activeFormat, ancillary } from './ancillary'
import { barsLength } from './barslength'
import { bitDepth } from './bitdepth'
import { black } from './black'
import { cadence } from './cadence'
import { channels } from './channels'
import { chroma } from './chroma'
import { clockLength } from './clocklength'
import { codec } from './codec'
import { codedKept, codedSound } from './codedsound'
import { colour, colourKept } from './colour'
import { constantSize } from './constantsize'
import { container } from './container'
import { contradictions } from './contradictions'
import { dataKept } from './datakept'
import { displayAspect } from './displayaspect'
import { dropFrame } from './dropframe'
import { dualMono } from './dualmono'
import { duration } from './duration'
import { firstPicture, lastPicture } from './endpictures'
import { fields } from './fields'
import { fileName } from './filename'
import { fileSize } from './filesize'
import { flashes } from './flashes'
import { frameRate } from './framerate'
import { freeRoom } from './freeroom'
import { freeze } from './freeze'
import { headerPartition } from './headerpartition'
import { heardChannels } from './heardchannels'
import { indexPosition } from './indexposition'
import { indexTable } from './indextable'
import { intact } from './intact'
import { intra } from './intra'
import { lateSound } from './latesound'
import { leadBlack } from './leadblack'
import { level } from './level'
import { levels } from './levels'
import { lineUp } from './lineup'
import { lineUpTwice } from './lineuptwice'
import { loudness } from './loudness'
import { loudnessRange } from './loudnessrange'
import { metadata } from './metadata'
import { momentaryLoudness } from './momentaryloudness'
import { operationalPattern } from './operationalpattern'
import { phase } from './phase'
import { pictureBitRate } from './picturebitrate'
import { pixelAspect } from './pixelaspect'
import { possible } from './possible'
import { presentation } from './presentation'
import { profile } from './profile'
import { programmeDuration } from './programmeduration'
import { programmeStart } from './programmestart'
import { randomIndex } from './randomindex'
import { raster } from './raster'
import { regionKind } from './regionkind'
import { sampleRate } from './samplerate'
import { scan } from './scan'
import { setRaster } from './setraster'
import { shortHandles } from './shorthandles'
import { shortTermLoudness } from './shorttermloudness'
import { silentChannel } from './silentchannel'
import { soundCodec } from './soundcodec'
import { soundDepth } from './sounddepth'
import { soundFaults } from './soundfaults'
import { soundTracks } from './soundtracks'
import { soundDepthUsed } from './sounddepthused'
import { statedLoudness } from './statedloudness'
import { startTimecode } from './starttimecode'
import { timecodeRate } from './timecoderate'
import { timecodeBreaks } from './timecodebreaks'
import { toneLevel } from './tonelevel'
import { trackLengths } from './tracklengths'
import { trial } from './trial'
import { truePeak } from './truepeak'
import { wrapping } from './wrapping'
import type { Evidence, Measure, Readings } from './measure'
import { fail } from '../problem'

/** Everything a rule can ask about, in the order it is shown: a new one is its own file and its line here. */
export const measures: Measure[] = [
  intact,
  container,
  indexPosition,
  operationalPattern,
  wrapping,
  headerPartition,
  indexTable,
  randomIndex,
  contradictions,
  presentation,
  fileSize,
  ancillary,
  dataKept,
  possible,
  trial,
  codec,
  profile,
  level,
  intra,
  pictureBitRate,
  constantSize,
  bitDepth,
  chroma,
  raster,
  setRaster,
  alpha,
  drawn,
  pixelAspect,
  displayAspect,
  scan,
  activeFormat,
  colour,
  colourKept,
  frameRate,
  lineUp,
  lineUpTwice,
  barsLength,
  clockLength,
  leadBlack,
  shortHandles,
  duration,
  programmeDuration,
  trackLengths,
  startTimecode,
  programmeStart,
  dropFrame,
  timecodeRate,
  timecodeBreaks,
  soundCodec,
  sampleRate,
  soundDepth,
  channels,
  soundTracks,
  codedSound,
  codedKept,
  heardChannels,
  lateSound,
  toneLevel,
  loudness,
  statedLoudness,
  soundDepthUsed,
  shortTermLoudness,
  momentaryLoudness,
  loudnessRange,
  truePeak,
  silentChannel,
  phase,
  dualMono,
  soundFaults,
  black,
  freeze,
  flashes,
  fields,
  cadence,
  levels,
  firstPicture,
  lastPicture,
  regionKind,
  metadata,
  fileName,
  freeRoom,
]

export function measureOf(name: string): Measure {
  return (
    measures.find((m) => m.name === name) ??
    fail(
      'measure.unknown',
      `There is no measure called “${name}”.`,
      name,
      'See docs/spec-format.md for those there are.',
    )
  )
}

/** Every reading that the evidence has, of the measures that are asked for; `from` says where it comes from. */
export function readMeasures(evidence: Evidence, from: string, asked: readonly Measure[] = measures): Readings {
  const out: Readings = {}
  for (const m of asked) {
    const reading = m.read(evidence)
    if (reading) out[m.name] = { ...reading, from }
  }
  return out
}
