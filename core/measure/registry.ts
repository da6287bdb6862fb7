import { alpha } from './picture/alpha'
import { drawn } from './picture/drawn'
import { activeFormat, ancillary } from './structure/ancillary'
import { barsLength } from './time/barslength'
import { bitDepth } from './picture/bitdepth'
import { black } from './content/black'
import { cadence } from './content/cadence'
import { captionPackets, captions } from './structure/captions'
import { channels } from './sound/channels'
import { chroma } from './picture/chroma'
import { clockLength } from './time/clocklength'
import { codec } from './picture/codec'
import { codedKept, codedSound } from './sound/codedsound'
import { colour, colourKept } from './picture/colour'
import { constantSize } from './picture/constantsize'
import { container } from './structure/container'
import { contradictions } from './structure/contradictions'
import { dataKept } from './structure/datakept'
import { displayAspect } from './picture/displayaspect'
import { dropFrame } from './time/dropframe'
import { dualMono } from './sound/dualmono'
import { duration } from './time/duration'
import { firstPicture, lastPicture } from './content/endpictures'
import { fields } from './content/fields'
import { fileName } from './metadata/filename'
import { fileSize } from './structure/filesize'
import { flashes } from './content/flashes'
import { frameRate } from './time/framerate'
import { freeRoom } from './metadata/freeroom'
import { freeze } from './content/freeze'
import { bodyPartitionLength } from './structure/bodypartitionlength'
import { bodyPartitions } from './structure/bodypartitions'
import { headerPartition } from './structure/headerpartition'
import { fullScale } from './sound/fullscale'
import { channelOrder } from './sound/channelorder'
import { heardChannels } from './sound/heardchannels'
import { indexPosition } from './structure/indexposition'
import { indexTable } from './structure/indextable'
import { intact } from './structure/intact'
import { intra } from './picture/intra'
import { lateSound } from './sound/latesound'
import { leadBlack } from './time/leadblack'
import { level } from './picture/level'
import { levels } from './content/levels'
import { lineUp } from './time/lineup'
import { lineUpTwice } from './time/lineuptwice'
import { loudness } from './sound/loudness'
import { loudnessRange } from './sound/loudnessrange'
import { metadata } from './metadata/metadata'
import { mixesLoudness } from './sound/mixesloudness'
import { momentaryLoudness } from './sound/momentaryloudness'
import { operationalPattern } from './structure/operationalpattern'
import { phase } from './sound/phase'
import { pictureBitRate } from './picture/picturebitrate'
import { ownSound } from './sound/ownsound'
import { pixelAspect } from './picture/pixelaspect'
import { possible } from './structure/possible'
import { presentation } from './structure/presentation'
import { profile } from './picture/profile'
import { programmeDuration } from './time/programmeduration'
import { programmeStart } from './time/programmestart'
import { randomIndex } from './structure/randomindex'
import { raster } from './picture/raster'
import { regionKind } from './metadata/regionkind'
import { sampleRate } from './sound/samplerate'
import { scan } from './picture/scan'
import { setRaster } from './picture/setraster'
import { shortHandles } from './time/shorthandles'
import { shortTermLoudness } from './sound/shorttermloudness'
import { silentChannel } from './sound/silentchannel'
import { soundCodec } from './sound/soundcodec'
import { soundDepth } from './sound/sounddepth'
import { soundFaults } from './sound/soundfaults'
import { soundTracks } from './sound/soundtracks'
import { soundDepthUsed } from './sound/sounddepthused'
import { statedLoudness } from './sound/statedloudness'
import { startTimecode } from './time/starttimecode'
import { timecodeRate } from './time/timecoderate'
import { timecodeBreaks } from './time/timecodebreaks'
import { toneLevel } from './sound/tonelevel'
import { trackLengths } from './time/tracklengths'
import { trial } from './structure/trial'
import { truePeak } from './sound/truepeak'
import { wrapping } from './structure/wrapping'
import { said, type Evidence, type Measure, type Reading, type Readings } from './measure'
import { fail } from '../problem'

/** Everything a rule can ask about, in the order it is shown: a new one is its own file and its line here. */
export const measures: Measure[] = [
  intact,
  container,
  indexPosition,
  operationalPattern,
  wrapping,
  headerPartition,
  bodyPartitions,
  bodyPartitionLength,
  indexTable,
  randomIndex,
  contradictions,
  presentation,
  fileSize,
  ancillary,
  captions,
  captionPackets,
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
  channelOrder,
  fullScale,
  ownSound,
  lateSound,
  toneLevel,
  loudness,
  statedLoudness,
  soundDepthUsed,
  shortTermLoudness,
  momentaryLoudness,
  loudnessRange,
  mixesLoudness,
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

/** What is said of pictures or sound that a file is without; null of what it has, and of what one stage alone asks. */
function ofNothing({ group, stage, ofPictures }: Measure, { described }: Evidence): Omit<Reading, 'from'> | null {
  if (!described || stage) return null
  if (group === 'sound' && !described.audio) return said(null, 'there is no sound')
  const asked = ofPictures || group === 'picture' || group === 'content'
  return asked && !described.video ? said(null, 'there are no pictures') : null
}

/** Every reading that the evidence has, of the measures that are asked for; `from` says where it comes from. */
export function readMeasures(evidence: Evidence, from: string, asked: readonly Measure[] = measures): Readings {
  const out: Readings = {}
  for (const m of asked) {
    const reading = m.read(evidence) ?? ofNothing(m, evidence)
    if (reading) out[m.name] = { ...reading, from }
  }
  return out
}
