import { listed, plural } from '../text'
import { shapeOf } from './aspect'

// What a file has players do to its pictures after they are decoded. None of it is done to them here: they are worked
// with, and measured, as they are coded, so that a file that asks for any of it is shown otherwise than it was judged.

/** What a file has players do to its pictures; what it does not ask is absent. */
export interface Presentation {
  /** Degrees clockwise, after they are mirrored. */
  readonly turned?: number
  /** Left for right. */
  readonly mirrored?: true
  /** The part of each that is shown, in samples and lines as they are coded. */
  readonly part?: { readonly width: number; readonly height: number }
  /** How wide to how high they are shown, before they are turned, where that is not the shape of their pixels. */
  readonly shape?: number
  /** Two views, of one scene, in each of them or in turns. */
  readonly twoViews?: true
  /** They surround the viewer. */
  readonly around?: true
  /** Their track is switched off. */
  readonly off?: true
}

/** Edges of pictures that are left off every day, and shapes that are two ways to count the same one: 702 of 720. */
const usual = 0.03

/** What a file may have players do to its pictures. */
interface Asking {
  readonly presentation?: Presentation
}

interface Shown extends Asking {
  readonly width: number
  readonly height: number
  readonly pixelAspect: string
}

const isPart = (all: number, shown: number) => shown < all * (1 - usual)

/** A presentation of what it asks that is not nothing; undefined where it asks nothing. */
export function asked(v: Omit<Shown, 'presentation'>, p: Presentation): Asking {
  const { part, shape, turned, ...rest } = p
  const shown = part ?? v
  const own = shapeOf({ ...shown, pixelAspect: v.pixelAspect })
  const of: Presentation = {
    ...(turned ? { turned } : {}),
    ...rest,
    ...(part && (part.width !== v.width || part.height !== v.height) ? { part } : {}),
    ...(shape && Math.abs(shape / own - 1) > usual ? { shape } : {}),
  }
  return Object.keys(of).length ? { presentation: of } : {}
}

/**
 * What of it goes with pictures that are copied: two views, which the stream tells, and the part that is shown, where
 * the description of the pictures is copied with them, as it is from MOV and MP4. A track is made anew.
 */
export function presentationOfCopy({ presentation: p }: Asking, from: string): Asking {
  const described = from === 'mov' || from === 'mp4'
  const of: Presentation = {
    ...(p?.part && described ? { part: p.part } : {}),
    ...(p?.twoViews ? { twoViews: true } : {}),
  }
  return Object.keys(of).length ? { presentation: of } : {}
}

/** How wide to how high pictures are shown. */
export function shownShape({ presentation: p, ...v }: Shown): number {
  const lying = p?.shape ?? shapeOf({ ...(p?.part ?? v), pixelAspect: v.pixelAspect })
  return (p?.turned ?? 0) % 180 === 90 ? 1 / lying : lying
}

const turnTexts = ({ mirrored, turned }: Presentation): string[] => [
  ...(mirrored ? ['left for right'] : []),
  ...(turned ? [`turned by ${turned}° clockwise`] : []),
]

/** What players do to pictures, in words, one after the other; nothing where they are shown as they are coded. */
export function presentationTexts({ presentation: p, width, height }: Shown): string[] {
  if (!p) return []
  const { part } = p
  return [
    ...(p.off ? ['not at all, since their track is switched off'] : []),
    ...(part && (isPart(width, part.width) || isPart(height, part.height))
      ? [`only ${part.width}×${part.height} of each`]
      : []),
    ...(p.shape ? [`${p.shape.toFixed(2)} times as wide as high`] : []),
    ...turnTexts(p),
    ...(p.twoViews ? ['as two views of one scene'] : []),
    ...(p.around ? ['around the viewer'] : []),
  ]
}

/** Edges that are left off, too narrow to make it another picture, in words; empty where there are none. */
export function edgesText({ presentation: p, ...v }: Shown): string {
  const left = p?.part && presentationTexts({ ...v, presentation: { part: p.part } }).length === 0
  return left ? `but for their edges (${p.part!.width}×${p.part!.height} of each)` : ''
}

/** A linear map of the plane as its two rows: where to the right and down lead. */
export type Placing = readonly [a: number, b: number, c: number, d: number]

/** One map after another. */
export const afterwards = ([a, b, c, d]: Placing, [e, f, g, h]: Placing): Placing => [
  ...([a * e + b * g, a * f + b * h] as const),
  ...([c * e + d * g, c * f + d * h] as const),
]

/** What a map does to pictures that are laid out by it; one that maps all to nothing is taken for none. */
export function placed(by: Placing): Pick<Presentation, 'turned' | 'mirrored'> & { readonly wider: number } {
  const [a, b, c, d] = by
  const [across, down] = [Math.hypot(a, b), Math.hypot(c, d)]
  if (!(across > 0 && down > 0)) return { wider: 1 }
  const mirrored = a * d - b * c < 0
  const degrees = Math.round((Math.atan2(mirrored ? -b : b, mirrored ? -a : a) * 180) / Math.PI)
  return {
    ...(degrees ? { turned: (degrees + 360) % 360 } : {}),
    ...(mirrored ? { mirrored } : {}),
    wider: across / down,
  }
}

/** What a map does, in words. */
export const placingText = (by: Placing): string => turnTexts(placed(by)).join(', ') || 'as it is'

/** Tracks of sound that are switched off, of all there are, in words; empty where all are on. */
export function silencedText(audio: readonly { readonly off?: true }[]): string {
  const off = audio.flatMap((a, i) => (a.off ? [String(i + 1)] : []))
  if (off.length === 0) return ''
  return off.length === audio.length
    ? `${plural(off.length, 'track')} switched off`
    : `${off.length > 1 ? 'tracks' : 'track'} ${listed(off)} switched off`
}
