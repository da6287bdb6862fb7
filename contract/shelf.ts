import type { Outlet } from '../core/deliverable/outlet'
import type { Problem } from '../core/problem'
import type { Abilities } from '../core/recipe/output'
import type { Recipe } from '../core/recipe/recipe'
import type { Spec } from '../core/spec/spec'

/** A worker process of the machine that serves. */
export interface WorkerInfo {
  readonly pid: number
  readonly index: number
}

/** Outlets, recipes, specs, and what this machine can do. */
export interface Shelf {
  readonly outlets: readonly Outlet[]
  readonly recipes: readonly Recipe[]
  readonly specs: readonly Spec[]
  readonly abilities: Abilities
  readonly workers: readonly WorkerInfo[]
  /** Why workers cannot be started; null while they can. */
  readonly workerTrouble: Problem | null
  /** Rows of the database that cannot be read and are left out. */
  readonly damaged: readonly Problem[]
}
