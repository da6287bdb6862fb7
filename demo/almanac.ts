import { makeRate, type Frames } from '../core/time/rate'
import { sampleAtFrame } from '../core/time/samples'
import { timecodeToFrames } from '../core/time/timecode'
import type { ReelPlan, ReelShot } from './reel'
import { makeSound, type SoundStretch } from './sound'

/** A film or other element of a reel: its shots and its sound. */
interface Element {
  readonly name: string
  readonly shots: readonly ReelShot[]
  readonly sound: Omit<SoundStretch, 'samples'>
}

const shot = (
  scene: ReelShot['scene'],
  frames: Frames,
  name: string,
  reel: string,
  more: Partial<ReelShot> = {},
): ReelShot => ({ scene, frames, name, reel, ...more })

/** The Ferry Almanac, reel one: line-up, six films, a promo and textless elements; with its planted faults. */
const almanac: readonly Element[] = [
  { name: 'Line-up', shots: [shot('bars', 75, 'Bars', 'LINEUP')], sound: { notes: [1000], loudness: -18, tone: true } },
  {
    name: 'Slate',
    shots: [shot('slate', 50, 'Slate', 'LINEUP'), shot('black', 25, 'Black', 'BL')],
    sound: { notes: [], loudness: -70 },
  },
  {
    name: 'Morning Chain',
    shots: [
      shot('chainWide', 50, 'Chain ferry, wide', 'Q101'),
      shot('chainClose', 35, 'Chain, close', 'Q102'),
      shot('chainWide', 40, 'Chain ferry leaves', 'Q101'),
    ],
    sound: { notes: [196, 247, 294, 392], loudness: -23 },
  },
  {
    name: 'The Gannet Run',
    shots: [shot('gannets', 70, 'Gannets over the run', 'Q110'), shot('gannetDive', 55, 'Dive', 'Q111')],
    sound: { notes: [330, 392, 494, 659], loudness: -14.5 },
  },
  {
    name: 'Fog Bell',
    shots: [shot('fog', 60, 'Fog bank', 'Q120'), shot('bell', 65, 'Bell', 'Q121', { black: { at: 31, frames: 2 } })],
    sound: { notes: [131, 131, 165, 131], loudness: -23 },
  },
  {
    name: 'Two Cars and a Cow',
    shots: [
      shot('carsAndCow', 85, 'Car deck', 'Q130', { freeze: { at: 30, frames: 34 } }),
      shot('tideTable', 40, 'Tide table', 'Q131'),
    ],
    sound: { notes: [262, 330, 392, 330], loudness: -23.2, fault: 'silent-right' },
  },
  {
    name: 'Low Water',
    shots: [shot('lowWater', 75, 'Posts', 'Q140'), shot('tideTable', 50, 'Tide table', 'Q131')],
    sound: { notes: [175, 220, 262, 349], loudness: -23, fault: 'peaks' },
  },
  {
    name: 'Last Boat Home',
    shots: [
      shot('lastBoat', 65, 'Night boat', 'Q150'),
      shot('lighthouse', 60, 'Lighthouse', 'Q151', { flashes: { at: 10, frames: 40 } }),
    ],
    sound: { notes: [147, 175, 220, 294], loudness: -23, fault: 'out-of-phase' },
  },
  { name: 'Promo', shots: [shot('promo', 50, 'Promo', 'Q190')], sound: { notes: [294, 370, 440, 587], loudness: -23 } },
  {
    name: 'Textless',
    shots: [shot('textless', 50, 'Textless elements', 'Q191', { clean: true })],
    sound: { notes: [98, 123], loudness: -28 },
  },
]

const bulletins: readonly Element[] = [
  { name: 'Ident', shots: [shot('textless', 40, 'Ident', 'H001')], sound: { notes: [440, 554], loudness: -24 } },
  {
    name: 'Morning Bulletin',
    shots: [shot('bulletin', 60, 'Reader', 'H002'), shot('tideTable', 60, 'Tides', 'H003')],
    sound: { notes: [220, 277, 330], loudness: -24 },
  },
  {
    name: 'Noon Bulletin',
    shots: [shot('bulletin', 70, 'Reader', 'H004'), shot('gannets', 50, 'Weather', 'H005')],
    sound: { notes: [247, 311, 370], loudness: -23.4 },
  },
  {
    name: 'Night Bulletin',
    shots: [shot('bulletin', 70, 'Reader', 'H006'), shot('lastBoat', 50, 'Late sailings', 'H007')],
    sound: { notes: [196, 247, 294], loudness: -24.6 },
  },
]

function soundOf(elements: readonly Element[], rate: ReelPlan['rate']): Float32Array[] {
  let at = 0
  return makeSound(
    elements.map((e) => {
      const frames = e.shots.reduce((n, s) => n + s.frames, 0)
      const samples = sampleAtFrame(at + frames, rate, 48000) - sampleAtFrame(at, rate, 48000)
      at += frames
      return { ...e.sound, samples }
    }),
  )
}

/** First frame and length of each element, by name. */
export function elementRanges(elements: readonly Element[]): Map<string, { in: Frames; out: Frames }> {
  const out = new Map<string, { in: Frames; out: Frames }>()
  let at = 0
  for (const e of elements) {
    const frames = e.shots.reduce((n, s) => n + s.frames, 0)
    out.set(e.name, { in: at, out: at + frames })
    at += frames
  }
  return out
}

export function almanacReel(): { plan: ReelPlan; ranges: Map<string, { in: Frames; out: Frames }> } {
  const rate = makeRate(25)
  return {
    ranges: elementRanges(almanac),
    plan: {
      width: 1920,
      height: 1080,
      rate,
      dropFrame: false,
      start: timecodeToFrames(9, 59, 54, 0, { rate, dropFrame: false })!,
      shots: almanac.flatMap((e) => e.shots),
      pictures: 'h264',
      sound: 'pcm',
      container: 'mov',
      bitrate: 6_000_000,
      channels: soundOf(almanac, rate),
    },
  }
}

export function bulletinReel(): { plan: ReelPlan; ranges: Map<string, { in: Frames; out: Frames }> } {
  const rate = makeRate(30000, 1001)
  return {
    ranges: elementRanges(bulletins),
    plan: {
      width: 1280,
      height: 720,
      rate,
      dropFrame: true,
      start: timecodeToFrames(1, 0, 50, 0, { rate, dropFrame: true })!,
      shots: bulletins.flatMap((e) => e.shots),
      pictures: 'h264',
      sound: 'aac',
      container: 'mp4',
      bitrate: 3_000_000,
      channels: soundOf(bulletins, rate).slice(0, 2),
    },
  }
}
