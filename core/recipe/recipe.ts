import type { FrameRange } from '../time/range'
import type { Rate } from '../time/rate'
import type { Output, OutputRequest } from './output'
import type { RecipeSettings, Setting } from './settings'

/** How a file is made: a kind and all its settings. Every setting can be overridden for one region. */
export interface Recipe extends RecipeSettings {
  readonly id: string
  readonly name: string
  /** The name of a {@link RecipeKind}. */
  readonly kind: string
}

/** Values that replace an outlet's recipe for one region. */
export type Overrides = Partial<RecipeSettings>

/** One step of a deliverable. */
export interface Step {
  /** Its name within the deliverable. */
  readonly key: string
  /** What is done: the name of a kind of step. */
  readonly kind: string
  /** Steps that must be done before: of this deliverable by key, of another as `deliverable/key`. */
  readonly needs: readonly string[]
  /** Frames this step works through, of the timeline, or as its kind says of the file; progress counts in them. */
  readonly range: FrameRange
  /** Abilities a worker must have: `decode:h264`, `encode:aac`. */
  readonly abilities: readonly string[]
  /** What its pace is known by; absent in sheets of earlier editions. */
  readonly pace?: string | undefined
}

/** What the steps of a deliverable follow from: all of it is frozen with it. */
export interface StepRequest {
  readonly settings: RecipeSettings
  readonly output: Output
  readonly range: FrameRange
  readonly rate: Rate
  /** Abilities that reading the source takes. */
  readonly reading: { readonly pictures: readonly string[]; readonly sound: readonly string[] }
}

/** A way to make a file. */
export interface RecipeKind {
  readonly kind: string
  /** What it is called where a recipe of its kind has another name. */
  readonly label: string
  /** The settings it has; only these are shown. */
  readonly settings: readonly Setting[]
  /** The recipe of this kind that ships. */
  readonly shipped: Recipe
  /** Brands its files can be, where there is a choice. */
  readonly containers?: readonly string[]
  /** Whether the source's essence is copied untouched: all its channels, whatever the settings say of them. */
  readonly copies: boolean
  /** Whether its files are masters, in whose pictures nothing is drawn as a rule. */
  readonly finished?: true
  /** Codecs that a machine must be able to encode for it. */
  readonly encodes: readonly string[]
  /** The file it gives for a range of a source. */
  output(request: OutputRequest): Output
  /** What is put behind a path for its name; that of the recipe's container if absent. */
  ending?(settings: RecipeSettings): string
  /** Its name by the path that a pattern gives, where that is more than its {@link ending} behind it. */
  fileName?(path: string, settings: RecipeSettings, output: Output): string
  /** The steps that make the file, in order; the proof comes after them. */
  steps(request: StepRequest): Step[]
}
