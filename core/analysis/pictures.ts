import type { ColouredPictures } from '../media/colour'
import { overlaps, type FrameRange } from '../time/range'
import { nominalRate, type Frames, type Rate } from '../time/rate'
import { cadenceMeter, type Beat } from './cadence'
import { contentMeter, type ContentFacts } from './content'
import { cutFinder, type FoundCut } from './cuts'
import { fieldMeter, type FieldFacts } from './fields'
import type { MeasuredHead } from './head'
import { levelMeter, type LevelFacts } from './levels'
import type { Meter } from './meter'
import type { Trace } from './trace'

/** Raised whenever something else is found in the same pictures: what was found before is not taken for it. */
export const contentEdition = 8

/** What is found in pictures: stretches in frames from the first one seen. */
export interface PictureFacts extends ContentFacts {
  readonly levels?: LevelFacts
  /** Absent of facts of earlier editions, as are beats of repeated pictures. */
  readonly fields?: FieldFacts
  readonly cadence?: readonly Beat[]
  /** Pictures that could not be decoded, of a region from its very first on; absent where all could. */
  readonly damaged?: readonly FrameRange[]
  /** Of a region: what it begins with, which all of this leaves out; frames count from the programme's first. */
  readonly head?: MeasuredHead | null
  /** Of a whole pass only. */
  readonly cuts?: readonly FoundCut[]
}

type Measured = PictureFacts & Required<Pick<PictureFacts, 'levels' | 'fields' | 'cadence'>>

interface Shape extends ColouredPictures {
  readonly rate: Rate
}

/** Stretches of pictures that could not be decoded. */
export function damageFinder(): Meter<Trace, readonly FrameRange[]> {
  const out: { in: Frames; out: Frames }[] = []
  let frame = 0
  return {
    feed(t) {
      const last = out.at(-1)
      if (t.damaged && last?.out === frame) last.out++
      else if (t.damaged) out.push({ in: frame, out: frame + 1 })
      frame++
    },
    result: () => out,
  }
}

/** What is seen in pictures as a whole, and which of them could not be decoded. */
export function contentMeters({ rate, width, height, colour }: Shape): Meter<Trace, Measured> {
  const content = contentMeter({ rate, width, height, colour, shortestFreeze: nominalRate(rate) })
  const levels = levelMeter(width, height)
  const fields = fieldMeter(nominalRate(rate))
  const cadence = cadenceMeter()
  const finder = damageFinder()
  return {
    feed(t) {
      content.feed(t)
      levels.feed(t)
      fields.feed(t)
      cadence.feed(t)
      finder.feed(t)
    },
    result() {
      const found = content.result()
      const damaged = finder.result()
      // a picture that stands in for others is no freeze of the programme
      const freeze = found.freeze.filter((r) => !damaged.some((d) => overlaps(d, r)))
      return {
        ...found,
        freeze,
        levels: levels.result(),
        fields: fields.result(),
        cadence: cadence.result(),
        ...(damaged.length ? { damaged } : {}),
      }
    },
  }
}

/** Pictures measured part by part, as if each stood alone; stretches are told where they lie in the whole. */
export interface PartsMeter extends Meter<Trace, Measured> {
  /** Says that a part begins with the next picture, at a frame of the whole. */
  begin(at: Frames): void
}

export function partsMeter(shape: Shape): PartsMeter {
  const parts: { readonly at: Frames; readonly meter: Meter<Trace, Measured> }[] = []
  return {
    begin: (at) => void parts.push({ at, meter: contentMeters(shape) }),
    feed: (t) => parts.at(-1)!.meter.feed(t),
    result() {
      const all = parts.map(({ at, meter }) => ({ at, facts: meter.result() }))
      const lists = <R extends FrameRange>(of: (f: Measured) => readonly R[]) =>
        all.flatMap(({ at, facts }) => of(facts).map((r) => ({ ...r, in: at + r.in, out: at + r.out })))
      const damaged = lists((f) => f.damaged ?? [])
      return {
        ...{ black: lists((f) => f.black), freeze: lists((f) => f.freeze), flashes: lists((f) => f.flashes) },
        levels: levelsOf(
          all.map(({ facts }) => facts.levels),
          lists((f) => f.levels.excursions),
        ),
        fields: { two: lists((f) => f.fields.two), one: all.some(({ facts }) => facts.fields.one) },
        cadence: lists((f) => f.cadence),
        ...(damaged.length ? { damaged } : {}),
      }
    },
  }
}

/** Levels of several parts as those of all of them. */
function levelsOf(parts: readonly LevelFacts[], excursions: LevelFacts['excursions']): LevelFacts {
  const seen = parts.flatMap((p) => p.active ?? [])
  const [x, y] = [Math.min(...seen.map((a) => a.x)), Math.min(...seen.map((a) => a.y))]
  const width = Math.max(...seen.map((a) => a.x + a.width)) - x
  const height = Math.max(...seen.map((a) => a.y + a.height)) - y
  return {
    excursions,
    lowest: Math.min(...parts.map((p) => p.lowest)),
    highest: Math.max(...parts.map((p) => p.highest)),
    // bars that one part has not are none of the whole
    active: seen.length === parts.length ? { x, y, width, height } : null,
  }
}

/** Every measure of pictures in one pass over their traces. */
export function pictureMeters(v: Shape): Meter<Trace, Measured & { readonly cuts: FoundCut[] }> {
  const content = contentMeters(v)
  const cuts = cutFinder()
  return {
    feed(t) {
      content.feed(t)
      cuts.feed(t)
    },
    result: () => ({ ...content.result(), cuts: cuts.result() }),
  }
}
