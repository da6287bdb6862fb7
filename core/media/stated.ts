import { aspectValue } from './aspect'
import { colourText } from './colour'
import type { AudioInfo, Chroma, Colour, Contradiction, Scan, VideoInfo } from './media'
import { listed } from '../text'
import { hasOrder, scanText } from './scan'

// What a file says of its pictures stands in two places, its container and the coded pictures themselves: players
// differ in which they follow, so that what they disagree in is said.

/** A colour as one place states it, by ITU-T H.273; 2 and null are what it does not state. */
export type StatedColour = Omit<Colour, 'fullRange'> & { readonly fullRange: boolean | null }

/** What one place of a file states of its pictures; what it does not state is absent. */
export interface StatedPictures {
  readonly width?: number | null
  readonly height?: number | null
  readonly scan?: Scan | null
  readonly chroma?: Chroma | null
  readonly bitDepth?: number | null
  readonly pixelAspect?: string | null
  readonly colour?: StatedColour | null
}

/** Shapes of pixels that are this near are two ways to count the same one (ITU-R BT.601 has 720 samples, or 702). */
const sameShape = 0.03

/** Codes of ITU-T H.273 that stand for the same: primaries, transfer, matrix. */
const alike = { primaries: [[6, 7]], transfer: [[1, 6, 14, 15]], matrix: [[5, 6]] }

type Part = keyof typeof alike

const sameCode = (part: Part, a: number, b: number): boolean =>
  a === 2 || b === 2 || a === b || alike[part].some((codes) => codes.includes(a) && codes.includes(b))

const sameColour = (a: StatedColour, b: StatedColour): boolean =>
  (['primaries', 'transfer', 'matrix'] as const).every((p) => sameCode(p, a[p], b[p])) &&
  (a.fullRange === null || b.fullRange === null || a.fullRange === b.fullRange)

/** One trait: what is stated of it, when two of it are the same, and how it is said. */
function trait<T>(
  label: string,
  of: (s: StatedPictures) => T | null | undefined,
  same: (a: T, b: T) => boolean,
  text: (v: T) => string,
) {
  return {
    label,
    held(container: StatedPictures, pictures: StatedPictures): Omit<Contradiction, 'trait'> | null {
      const [a, b] = [of(container), of(pictures)]
      if (a === null || a === undefined || b === null || b === undefined || same(a, b)) return null
      return { container: text(a), pictures: text(b) }
    },
  }
}

const equal = <T>(a: T, b: T) => a === b

type TraitName = Contradiction['trait']

/** What is compared, in the order it is said. */
const traits: Readonly<Record<TraitName, Pick<ReturnType<typeof trait>, 'label' | 'held'>>> = {
  raster: trait('raster', (s) => (s.width && s.height ? `${s.width}×${s.height}` : null), equal, String),
  // frames of one moment may be coded as fields, and fields as frames: an order is either one or the other
  order: trait(
    'field order',
    (s) => s.scan,
    (a, b) => a === b || !hasOrder(a) || !hasOrder(b),
    scanText,
  ),
  chroma: trait('chroma', (s) => s.chroma, equal, String),
  depth: trait(
    'depth',
    (s) => s.bitDepth,
    equal,
    (v) => `${v} bit`,
  ),
  aspect: trait(
    'shape of pixels',
    (s) => s.pixelAspect,
    (a, b) => Math.abs(aspectValue(a) / aspectValue(b) - 1) < sameShape,
    String,
  ),
  colour: trait(
    'colour',
    (s) => s.colour,
    sameColour,
    (c) => colourText({ ...c, fullRange: c.fullRange ?? false }),
  ),
}

const names = Object.keys(traits) as TraitName[]

/** What a container and the pictures in it state differently; of pictures that say nothing themselves, nothing. */
export function heldTogether(container: StatedPictures, pictures: StatedPictures): Pick<VideoInfo, 'contradictions'> {
  if (pictures.bitDepth === undefined) return {}
  const contradictions = names.flatMap((name): Contradiction[] => {
    const found = traits[name].held(container, pictures)
    return found ? [{ trait: name, ...found }] : []
  })
  return { contradictions }
}

/** What is told of pictures by neither of two places. */
export function untoldBy(...places: readonly StatedPictures[]): Pick<VideoInfo, 'untold'> {
  const untold = (['scan', 'chroma', 'bitDepth'] as const).filter((of) => places.every((p) => (p[of] ?? null) === null))
  return untold.length ? { untold } : {}
}

/** What a file does not tell of its sound: what is null of what it says. */
export function untoldSound(told: Readonly<Record<'sampleRate' | 'bitDepth', unknown>>): Pick<AudioInfo, 'untold'> {
  const untold = (['sampleRate', 'bitDepth'] as const).filter((of) => told[of] === null)
  return untold.length ? { untold } : {}
}

const untoldNames = { scan: 'scan', chroma: 'chroma', bitDepth: 'depth' } as const

/** What is not told of pictures, in words; empty where all is. */
export const untoldText = ({ untold = [] }: Pick<VideoInfo, 'untold'>): string =>
  listed(untold.map((of) => untoldNames[of]))

/** A contradiction in words: `colour: BT.709 in the container, BT.2020 in the pictures`. */
export const contradictionText = ({ trait: name, container, pictures }: Contradiction): string =>
  `${traits[name].label}: ${container} in the container, ${pictures} in the pictures`

/** The colour of pictures: each part as the container states it, else as they do themselves; null of neither. */
export function joinedColour(container: StatedColour | null, pictures: Colour | null): Colour | null {
  if (!container) return pictures
  const part = (p: Part) => (container[p] === 2 ? (pictures?.[p] ?? 2) : container[p])
  const [primaries, transfer, matrix] = [part('primaries'), part('transfer'), part('matrix')]
  const fullRange = container.fullRange ?? pictures?.fullRange ?? false
  const nothing = primaries === 2 && transfer === 2 && matrix === 2 && !fullRange
  return nothing ? null : { primaries, transfer, matrix, fullRange }
}
