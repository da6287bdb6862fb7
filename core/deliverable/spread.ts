import { frameOfProgramme, programmeFrames, type Sectioned } from '../lineup/lineup'
import type { Recipe } from '../recipe/recipe'
import { recipeKind } from '../recipe/registry'
import { needsAllPictures, type Spec } from '../spec/spec'
import { nominalRate, type Frames, type Rate } from '../time/rate'

/** Frames from a sync sample on that take turns, so that what leans on others is decoded as well. */
const turns = 4

/**
 * Frames of a coded file that are decoded when it is proven, in order: both ends, both sides of where segments were
 * joined (`joints`: first frames of segments), and one every `seconds`.
 */
export function spreadFrames(frames: Frames, rate: Rate, joints: readonly Frames[], seconds: number): Frames[] {
  const out = new Set<Frames>([0, frames - 1])
  for (const j of joints) if (j > 0 && j < frames) out.add(j - 1).add(j)
  const step = nominalRate(rate) * seconds
  for (let k = 0; k * step < frames; k++) out.add(Math.min(frames - 1, k * step + (k % turns)))
  return [...out].sort((a, b) => a - b)
}

/** Frames of a file that its contact sheet shows: in even steps from the programme's first to its last. */
export function sheetFrames(file: Sectioned, count: number): Frames[] {
  const last = programmeFrames(file) - 1
  const steps = Math.min(count - 1, last)
  return Array.from({ length: steps + 1 }, (_, i) => frameOfProgramme(file, steps ? Math.round((i * last) / steps) : 0))
}

/**
 * Seconds from one decoded picture to the next in the proof of a file, 0 for all of them: where a rule asks about what
 * is seen, and where the recipe leaves no choice, all are.
 */
export function proofSpread(recipe: Recipe, spec: Spec): number {
  return needsAllPictures(spec) || !recipeKind(recipe).settings.includes('proofSpread') ? 0 : recipe.proofSpread
}
